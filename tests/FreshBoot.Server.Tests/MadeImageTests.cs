using System.Net;
using System.Net.Http.Json;
using System.Security.Cryptography;
using System.Text.Json;
using FreshBoot.Formats.FileSystems;

namespace FreshBoot.Server.Tests;

/// <summary>An image made of a kernel and an archive: what goes in is looked at first, and what comes out starts in every way.</summary>
public sealed class MadeImageTests(TestWorkshop workshop) : IClassFixture<TestWorkshop>
{
    private readonly HttpClient _client = workshop.CreateClient();

    private static byte[] Kernel()
    {
        var kernel = new byte[64 * 1024];
        "HdrS"u8.CopyTo(kernel.AsSpan(0x202));
        kernel[0x206] = 0x0f;
        kernel[0x207] = 0x02;
        return kernel;
    }

    private async Task<(HttpStatusCode Code, JsonElement Said)> MakeAsync(byte[] kernel, byte[] archive, string line)
    {
        using var form = new MultipartFormDataContent
        {
            { new ByteArrayContent(kernel), "kernel", "kernel" },
            { new ByteArrayContent(archive), "archive", "archive" },
            { new StringContent("made here.iso"), "name" },
            { new StringContent(line), "line" },
            { new StringContent("Pim"), "by" },
        };
        var answer = await _client.PostAsync("/api/images/made", form);
        return (answer.StatusCode, await answer.JsonAsync());
    }

    [Fact]
    public async Task It_starts_in_every_way_and_holds_both_files_as_they_came()
    {
        var archive = CpioArchive.Of("init", "#!/bin/sh\n"u8);
        var (code, sheet) = await MakeAsync(Kernel(), archive, "console=ttyS0 quiet");
        Assert.Equal(HttpStatusCode.Created, code);
        var starts = sheet.GetProperty("starts");
        foreach (var way in new[] { "biosDisc", "biosStick", "uefi64Disc", "uefi64Stick", "uefi32" })
            Assert.True(starts.GetProperty(way).GetProperty("can").GetBoolean(), way);
        var id = sheet.GetProperty("image").GetProperty("id").GetInt32();
        var there = await _client.GetFromJsonAsync<JsonElement>($"/api/images/{id}/file?path=boot/archive");
        Assert.Equal(Convert.ToHexStringLower(SHA256.HashData(archive)), there.GetProperty("sha256").GetString());
        var script = await _client.GetFromJsonAsync<JsonElement>($"/api/images/{id}/file?path=boot/grub/start.cfg");
        Assert.Contains(
            "linux /boot/kernel console=ttyS0 quiet",
            script.GetProperty("text").GetString(),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task What_is_no_kernel_or_archive_and_a_line_that_the_loader_would_read_are_refused_and_nothing_is_left()
    {
        var before = await _client.GetStringAsync("/api/images");
        var archive = CpioArchive.Of("init", "x"u8);
        foreach (
            var (kernel, packed, line, where, expected) in new[]
            {
                (new byte[4096], archive, "", "kernel", HttpStatusCode.UnprocessableEntity),
                (Kernel(), "no archive"u8.ToArray(), "", "archive", HttpStatusCode.UnprocessableEntity),
                (Kernel(), archive, "quiet; halt \"$x\"", "line", HttpStatusCode.BadRequest),
                (Kernel(), archive, "quiet\nhalt", "line", HttpStatusCode.BadRequest),
            }
        )
        {
            var (code, said) = await MakeAsync(kernel, packed, line);
            Assert.Equal(expected, code);
            Assert.Equal(where, said.GetProperty("where").GetString());
        }
        Assert.Equal(Ids(before), Ids(await _client.GetStringAsync("/api/images")));
    }

    private static string Ids(string shelf)
    {
        using var json = JsonDocument.Parse(shelf);
        return string.Join(
            ',',
            json.RootElement.GetProperty("images")
                .EnumerateArray()
                .Select(i => i.GetProperty("image").GetProperty("id"))
        );
    }
}
