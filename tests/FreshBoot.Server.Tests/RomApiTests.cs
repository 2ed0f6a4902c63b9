using System.Net;
using System.Security.Cryptography;
using System.Text.Json;

namespace FreshBoot.Server.Tests;

/// <summary>Images of firmware chips over HTTP, with those of Debian packages.</summary>
public sealed class RomApiTests : IDisposable
{
    private readonly TestWorkshop _workshop = new();
    private readonly HttpClient _client;

    public RomApiTests() => _client = _workshop.CreateClient();

    public void Dispose()
    {
        _client.Dispose();
        _workshop.Dispose();
    }

    private async Task<HttpResponseMessage> BringAsync(byte[] bytes, string name)
    {
        using var form = new MultipartFormDataContent
        {
            { new ByteArrayContent(bytes), "file", "chip.rom" },
            { new StringContent(name), "name" },
            { new StringContent("Pim"), "by" },
        };
        return await _client.PostAsync("/api/roms", form);
    }

    [Fact]
    public async Task An_image_is_taken_in_read_compared_and_given_back_byte_for_byte()
    {
        var bytes = await File.ReadAllBytesAsync("/usr/share/OVMF/OVMF_VARS_4M.fd");
        var answer = await BringAsync(bytes, "as it came");
        answer.StatusCode.ShouldBe(HttpStatusCode.Created, await answer.Content.ReadAsStringAsync());
        var sheet = await answer.JsonAsync();
        var volume = sheet.GetProperty("volumes").EnumerateArray().ShouldHaveSingleItem();
        volume.GetProperty("fileSystem").GetString().ShouldBe("variables");
        volume.GetProperty("checksumOk").GetBoolean().ShouldBeTrue();
        sheet.GetProperty("entropy").GetArrayLength().ShouldBe((bytes.Length + 4095) / 4096);
        var id = sheet.GetProperty("id").GetInt32();

        // The same bytes once more are the same image.
        (await (await BringAsync(bytes, "again")).JsonAsync())
            .GetProperty("id")
            .GetInt32()
            .ShouldBe(id);
        var content = await _client.GetByteArrayAsync($"/api/roms/{id}/content");
        Convert.ToHexStringLower(SHA256.HashData(content)).ShouldBe(sheet.GetProperty("sha256").GetString());

        bytes[200_000] ^= 0x55;
        var other = (await (await BringAsync(bytes, "after a bad read")).JsonAsync()).GetProperty("id").GetInt32();
        var compared = await (await _client.PostAsync($"/api/roms/{id}/compare/{other}", null)).JsonAsync();
        var difference = compared.GetProperty("differences").EnumerateArray().ShouldHaveSingleItem();
        difference.GetProperty("offset").GetInt64().ShouldBe(200_000 / 4096 * 4096);
        difference.GetProperty("region").GetString().ShouldBe("volume at 0x0");
        (await _client.GetAsync("/api/roms/99")).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task What_is_no_image_is_refused_and_not_kept()
    {
        (await BringAsync([], "nothing")).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        using var form = new MultipartFormDataContent { { new StringContent("x"), "name" } };
        (await _client.PostAsync("/api/roms", form)).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        JsonDocument.Parse(await _client.GetStringAsync("/api/roms")).RootElement.GetArrayLength().ShouldBe(0);
    }
}
