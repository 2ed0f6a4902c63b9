using System.Buffers.Binary;
using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;

namespace FreshBoot.Server.Tests;

/// <summary>
/// A hybrid image of the older kind, whose GPT has partitions that lie over one another: what a patch leaves of it is told before, and
/// what is told is what a small parser of these tests finds.
/// </summary>
public sealed class HybridTests : IDisposable
{
    private readonly TestWorkshop _workshop = new();
    private readonly string _folder = Directory.CreateTempSubdirectory("fresh-boot-hybrid-").FullName;
    private readonly HttpClient _client;

    public HybridTests() => _client = _workshop.CreateClient();

    public void Dispose()
    {
        _workshop.Dispose();
        Directory.Delete(_folder, recursive: true);
    }

    /// <summary>Makes one: started by BIOS and by UEFI, as a disc and as a stick.</summary>
    /// <param name="loader">Whether its UEFI loader stands among its files too, where a copy of them finds it.</param>
    private async Task<string> MakeAsync(bool loader)
    {
        var tree = Directory.CreateDirectory(Path.Combine(_folder, "tree")).FullName;
        Directory.CreateDirectory(Path.Combine(tree, "isolinux"));
        Directory.CreateDirectory(Path.Combine(tree, "setup"));
        File.WriteAllText(Path.Combine(tree, "setup", "gates.conf"), "gate tpm check\n");
        File.Copy("/usr/lib/ISOLINUX/isolinux.bin", Path.Combine(tree, "isolinux", "isolinux.bin"));
        var efi = Path.Combine(tree, "efi.img");
        File.WriteAllBytes(efi, new byte[4 << 20]);
        await ProgramOutput.Of(
            "sh",
            "-c",
            $"PATH=$PATH:/usr/sbin:/sbin; mkfs.vfat '{efi}' && mmd -i '{efi}' ::/EFI ::/EFI/BOOT && mcopy -i '{DemoImages.EfiOf("tessaly-6-r1")}' ::/EFI/BOOT/BOOTX64.EFI '{_folder}/loader' && mcopy -i '{efi}' '{_folder}/loader' ::/EFI/BOOT/BOOTX64.EFI"
        );
        if (loader)
        {
            Directory.CreateDirectory(Path.Combine(tree, "EFI", "BOOT"));
            File.Copy(Path.Combine(_folder, "loader"), Path.Combine(tree, "EFI", "BOOT", "BOOTX64.EFI"));
        }
        var image = Path.Combine(_folder, "hybrid.iso");
        await ProgramOutput.Of(
            "xorriso",
            "-as",
            "mkisofs",
            "-o",
            image,
            "-V",
            "HYBRID",
            "-isohybrid-mbr",
            "/usr/lib/ISOLINUX/isohdpfx.bin",
            "-b",
            "isolinux/isolinux.bin",
            "-no-emul-boot",
            "-boot-load-size",
            "4",
            "-boot-info-table",
            "-eltorito-alt-boot",
            "-e",
            "efi.img",
            "-no-emul-boot",
            "-isohybrid-gpt-basdat",
            tree
        );
        return image;
    }

    private sealed record Part(string Type, long First, long Last);

    /// <summary>The entries of a GPT (UEFI 2.10, 5.3).</summary>
    private static Part[] Gpt(byte[] image)
    {
        if (Encoding.ASCII.GetString(image, 512, 8) != "EFI PART")
            return [];
        var at = (int)BinaryPrimitives.ReadInt64LittleEndian(image.AsSpan(512 + 72)) * 512;
        var count = BinaryPrimitives.ReadInt32LittleEndian(image.AsSpan(512 + 80));
        var size = BinaryPrimitives.ReadInt32LittleEndian(image.AsSpan(512 + 84));
        return
        [
            .. Enumerable
                .Range(0, count)
                .Select(i => image.AsSpan(at + i * size, size).ToArray())
                .Where(e => e.AsSpan(0, 16).ContainsAnyExcept((byte)0))
                .Select(e => new Part(
                    new Guid(e.AsSpan(0, 16)).ToString(),
                    BinaryPrimitives.ReadInt64LittleEndian(e.AsSpan(32)),
                    BinaryPrimitives.ReadInt64LittleEndian(e.AsSpan(40))
                )),
        ];
    }

    private static string[] Ways(JsonElement starts) =>
        [
            .. starts
                .EnumerateObject()
                .Where(s => s.Value.ValueKind == JsonValueKind.Object && s.Value.GetProperty("can").GetBoolean())
                .Select(s => s.Name),
        ];

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public async Task What_a_patch_leaves_of_overlapping_partitions_is_told_before_and_no_way_of_starting_goes_unasked(
        bool loader
    )
    {
        var path = await MakeAsync(loader);
        var before = await File.ReadAllBytesAsync(path);
        // It is what it should be: two partitions of which one lies within the other.
        var parts = Gpt(before);
        parts.ShouldContain(a => parts.Any(b => a != b && a.First <= b.First && b.Last <= a.Last));
        var image = await _client.PutImageAsync(path, "tessaly-6-r1", "61140");
        var id = image.GetProperty("image").GetProperty("id").GetInt32();
        var ways = Ways(image.GetProperty("starts"));
        ways.Length.ShouldBeGreaterThanOrEqualTo(4, image.GetProperty("starts").ToString());
        (
            await _client.PutAsJsonAsync(
                "/api/recipes/one",
                new
                {
                    text = """{"id":"one","name":"One","for":{"system":"tessaly-6-r1","builds":["61140"],"files":[]},"operations":[{"op":"replaceText","path":"setup/gates.conf","find":"gate tpm check","with":"gate tpm skip"}]}""",
                    version = 0,
                    by = "Pim",
                }
            )
        ).EnsureSuccessStatusCode();

        var dry = await (
            await _client.PostAsJsonAsync(
                $"/api/images/{id}/patch",
                new
                {
                    recipe = "one",
                    by = "Pim",
                    dryRun = true,
                }
            )
        ).JsonAsync();
        if (!loader)
        {
            // Nothing that could be made would start: it is said before anything is made.
            dry.GetProperty("status").GetInt32().ShouldBe(409, dry.ToString());
            dry.GetProperty("detail").GetString()!.ShouldContain("overlap");
            return;
        }
        dry.TryGetProperty("losses", out _).ShouldBeTrue(dry.ToString());
        var told = dry.GetProperty("losses").EnumerateArray().ToArray();
        var lost = told.Where(l => l.GetProperty("isStart").GetBoolean()).ToArray();
        var answer = await _client.PostAsJsonAsync($"/api/images/{id}/patch", new { recipe = "one", by = "Pim" });
        lost.ShouldNotBeEmpty(dry.ToString());
        answer.StatusCode.ShouldBe(HttpStatusCode.Conflict, "nobody took the loss of a way of starting");
        answer = await _client.PostAsJsonAsync(
            $"/api/images/{id}/patch",
            new
            {
                recipe = "one",
                by = "Pim",
                accept = true,
            }
        );
        answer.StatusCode.ShouldBe(HttpStatusCode.OK, await answer.Content.ReadAsStringAsync());
        var job = await _client.DoneAsync((await answer.JsonAsync()).GetProperty("job"));
        job.GetProperty("state").GetString().ShouldBe("done", job.ToString());
        var made = job.GetProperty("result").GetProperty("imageId").GetInt32();
        var sheet = await _client.GetFromJsonAsync<JsonElement>($"/api/images/{made}");
        // Every way that is gone was told, and no other.
        ways.Except(Ways(sheet.GetProperty("starts"))).Count().ShouldBe(lost.Length, $"{dry} {sheet}");

        // The bytes say the same: what the test's own parser misses was told as lost.
        var after = await _client.GetByteArrayAsync($"/api/images/{made}/content");
        var left = Gpt(after).Select(p => p.Type).ToList();
        foreach (var part in parts)
            if (!left.Remove(part.Type))
                told.ShouldContain(
                    l => l.GetProperty("what").GetString()!.Contains("partition", StringComparison.Ordinal),
                    $"{part} is gone and was not told: {dry}"
                );
    }
}
