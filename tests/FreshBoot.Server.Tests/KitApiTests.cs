using System.IO.Compression;
using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;

namespace FreshBoot.Server.Tests;

/// <summary>Boot kits over HTTP: built for a machine of the demo, checked, mended, and started for real in the twin.</summary>
public sealed class KitApiTests(DemoWorkshop demo) : IClassFixture<DemoWorkshop>
{
    private const string Stile = "MR-0418";
    private readonly HttpClient _client = demo.Client;

    private async Task<JsonElement> BuildAsync(string tag = Stile)
    {
        var answer = await _client.PostAsJsonAsync(
            $"/api/machines/{tag}/kit",
            new { system = "canzona-6", by = "Pim" }
        );
        answer.StatusCode.ShouldBe(HttpStatusCode.Created, await answer.Content.ReadAsStringAsync());
        return await answer.JsonAsync();
    }

    private async Task<HttpResponseMessage> BringAsync(byte[] bytes)
    {
        using var form = new MultipartFormDataContent
        {
            { new StringContent("somebody's kit"), "name" },
            { new StringContent("Pim"), "by" },
            {
                new ByteArrayContent(bytes) { Headers = { ContentType = new MediaTypeHeaderValue("application/zip") } },
                "file",
                "kit.zip"
            },
        };
        return await _client.PostAsync("/api/kits", form);
    }

    private async Task<Dictionary<string, string>> FilesAsync(JsonElement kit)
    {
        using var zip = new ZipArchive(
            new MemoryStream(await _client.GetByteArrayAsync($"/api/kits/{kit.GetProperty("id").GetInt32()}/content"))
        );
        return zip.Entries.ToDictionary(
            e => e.FullName,
            e => new StreamReader(e.Open(), Encoding.UTF8).ReadToEnd(),
            StringComparer.Ordinal
        );
    }

    private static byte[] Zip(Dictionary<string, string> files)
    {
        using var bytes = new MemoryStream();
        using (var zip = new ZipArchive(bytes, ZipArchiveMode.Create, leaveOpen: true))
            foreach (var (path, text) in files)
            {
                using var into = zip.CreateEntry(path).Open();
                into.Write(Encoding.UTF8.GetBytes(text));
            }
        return bytes.ToArray();
    }

    private async Task<JsonElement> ImageAsync(string system) =>
        (await _client.GetFromJsonAsync<JsonElement>("/api/images"))
            .GetProperty("images")
            .EnumerateArray()
            .Select(i => i.GetProperty("image"))
            .First(i =>
                i.GetProperty("system").GetString() == system && i.GetProperty("parent").ValueKind == JsonValueKind.Null
            );

    [Fact]
    public async Task A_kit_and_an_installer_become_one_image_that_the_firmware_starts_by_the_kit()
    {
        var kit = await BuildAsync();
        var id = kit.GetProperty("id").GetInt32();
        var of = await ImageAsync("canzona-6");
        async Task<HttpResponseMessage> PutAsync(int image) =>
            await _client.PostAsJsonAsync($"/api/kits/{id}/images", new { imageId = image, by = "Pim" });
        var begun = await PutAsync(of.GetProperty("id").GetInt32());
        begun.StatusCode.ShouldBe(HttpStatusCode.Accepted, await begun.Content.ReadAsStringAsync());
        var job = await _client.EndOfAsync(await begun.JsonAsync());
        job.GetProperty("state").GetString().ShouldBe("done", job.GetProperty("says").GetString());
        job.GetProperty("says").GetString()!.ShouldContain("read again and equal");
        var made = job.GetProperty("result").GetProperty("imageId").GetInt32();

        // Other programs read it: the files of the kit are what its list says, and the installer's are all there.
        var folder = Directory.CreateTempSubdirectory("fresh-boot-kit-").FullName;
        try
        {
            var image = Path.Combine(folder, "with-kit.img");
            await using (var file = File.Create(image))
                await (await _client.GetStreamAsync($"/api/images/{made}/content")).CopyToAsync(file);
            var tree = Directory.CreateDirectory(Path.Combine(folder, "tree")).FullName;
            await ProgramOutput.Of("mcopy", "-s", "-n", "-i", $"{image}@@1M", "::/", tree);
            (await ProgramOutput.Of("sh", "-c", $"cd {tree} && sha256sum --quiet -c kit/manifest.sha256 && echo SAME"))
                .Trim()
                .ShouldBe("SAME");
            var original = DemoImages.Of("canzona-6");
            var disc = Directory.CreateDirectory(Path.Combine(folder, "disc")).FullName;
            await ProgramOutput.Of("xorriso", "-osirrox", "on", "-indev", original, "-extract", "/", disc);
            (await ProgramOutput.Of("sh", "-c", $"diff -rq {disc} {tree} | grep -v '^Only in {tree}' || echo EQUAL"))
                .Trim()
                .ShouldBe("EQUAL");
            await ProgramOutput.Of(
                "mcopy",
                "-i",
                DemoImages.EfiOf("canzona-6"),
                "::/EFI/BOOT/BOOTX64.EFI",
                Path.Combine(folder, "installer.efi")
            );
            (await File.ReadAllBytesAsync(Path.Combine(tree, "EFI", "installer", "BOOTX64.EFI"))).ShouldBe(
                await File.ReadAllBytesAsync(Path.Combine(folder, "installer.efi"))
            );
        }
        finally
        {
            await ProgramOutput.Of("chmod", "-R", "u+w", folder);
            Directory.Delete(folder, recursive: true);
        }

        // A second kit on it, and an image of another system, are refused.
        (await PutAsync(made)).StatusCode.ShouldBe(HttpStatusCode.Conflict);
        var other = await PutAsync((await ImageAsync("wickerwork-26")).GetProperty("id").GetInt32());
        other.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await other.Content.ReadAsStringAsync()).ShouldContain("not of the system");
    }

    [Fact]
    public async Task A_kit_is_built_with_reasons_verifies_and_starts_in_the_twin()
    {
        var plan = await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{Stile}/kit?system=canzona-6");
        plan.GetProperty("components").GetArrayLength().ShouldBe(10);
        plan.GetProperty("components")
            .EnumerateArray()
            .ShouldAllBe(c => c.GetProperty("why").GetString()!.EndsWith('.'));
        var kit = await BuildAsync();
        kit.GetProperty("findings").GetArrayLength().ShouldBe(0);

        var files = await FilesAsync(kit);
        files.Keys.ShouldContain("kit/shims/underlay.kit");
        // As a hand checks it at the bench.
        var folder = Directory.CreateTempSubdirectory("fresh-boot-kit-").FullName;
        try
        {
            foreach (var (path, text) in files)
            {
                Directory.CreateDirectory(Path.GetDirectoryName(Path.Combine(folder, path))!);
                await File.WriteAllTextAsync(Path.Combine(folder, path), text);
            }
            await ProgramOutput.Of("sh", "-c", $"cd '{folder}' && sha256sum --quiet -c kit/manifest.sha256");
            (
                await ProgramOutput.Of(
                    "python3",
                    "-c",
                    "import plistlib,sys;c=plistlib.load(open(sys.argv[1],'rb'));print(c['build'],len(c['load']),c['machine']['table'])",
                    Path.Combine(folder, "kit", "config.plist")
                )
            )
                .Trim()
                .ShouldBe("2612 10 mobile");
        }
        finally
        {
            Directory.Delete(folder, recursive: true);
        }

        var begun = await _client.PostAsJsonAsync(
            $"/api/kits/{kit.GetProperty("id").GetInt32()}/twin",
            new { by = "Pim" }
        );
        begun.StatusCode.ShouldBe(HttpStatusCode.Accepted, await begun.Content.ReadAsStringAsync());
        var done = await _client.DoneAsync(await begun.JsonAsync());
        done.GetProperty("state").GetString().ShouldBe("done", done.ToString());
        done.GetProperty("result").GetProperty("text").GetString()!.ShouldContain("loads shims/underlay.kit");
    }

    [Fact]
    public async Task A_kit_from_elsewhere_is_checked_mended_edited_and_refused_where_it_is_hostile()
    {
        var files = await FilesAsync(await BuildAsync());
        files.Remove("kit/shims/underlay.kit");
        files["kit/shims/sample-underlay.txt"] = "a sample";
        var answer = await BringAsync(Zip(files));
        answer.StatusCode.ShouldBe(HttpStatusCode.Created, await answer.Content.ReadAsStringAsync());
        var brought = await answer.JsonAsync();
        brought.GetProperty("findings").GetArrayLength().ShouldBe(2);

        var id = brought.GetProperty("id").GetInt32();
        var mended = await (await _client.PostAsJsonAsync($"/api/kits/{id}/repair", new { by = "Pim" })).JsonAsync();
        mended.GetProperty("findings").GetArrayLength().ShouldBe(0, mended.ToString());
        mended.GetProperty("parent").GetInt32().ShouldBe(id);

        var edited = await (
            await _client.PutAsJsonAsync(
                $"/api/kits/{mended.GetProperty("id").GetInt32()}/config",
                new
                {
                    text = mended.GetProperty("config").GetString()!.Replace("2612", "2100", StringComparison.Ordinal),
                    by = "Pim",
                }
            )
        ).JsonAsync();
        edited.GetProperty("findings").GetArrayLength().ShouldBeGreaterThan(0);
        (
            await _client.PutAsJsonAsync($"/api/kits/{id}/config", new { text = "<plist>", by = "Pim" })
        ).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        // What it came from stays.
        (await _client.GetFromJsonAsync<JsonElement>($"/api/kits/{id}"))
            .GetProperty("findings")
            .GetArrayLength()
            .ShouldBe(2);

        (await BringAsync([1, 2, 3])).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await BringAsync(Zip(new() { ["../out"] = "x" }))).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await _client.GetAsync("/api/kits/9999")).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task Prepare_waits_for_the_kit_and_says_when_it_would_be_built_otherwise()
    {
        const string Sonata = "MR-0408";
        var routes = (await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{Sonata}/routes"))
            .EnumerateArray()
            .First(r => r.GetProperty("system").GetString() == "canzona-6");
        async Task<string> StateAsync() =>
            (
                await _client.GetFromJsonAsync<JsonElement>(
                    $"/api/machines/{Sonata}/work-items?route={routes.GetProperty("id").GetString()}"
                )
            )
                .GetProperty("items")
                .EnumerateArray()
                .Single(i => i.GetProperty("kind").GetString() == "kit")
                .GetProperty("state")
                .GetString()!;

        async Task<JsonElement> PutAsync(JsonElement kit)
        {
            var of = (await ImageAsync("canzona-6")).GetProperty("id").GetInt32();
            var begun = await _client.PostAsJsonAsync(
                $"/api/kits/{kit.GetProperty("id").GetInt32()}/images",
                new { imageId = of, by = "Pim" }
            );
            return await _client.EndOfAsync(await begun.JsonAsync());
        }

        // Built it is half of it; ready it is on one image with the installer.
        (await StateAsync()).ShouldBe("missing");
        var first = await BuildAsync(Sonata);
        (await StateAsync()).ShouldBe("missing");
        (await PutAsync(first)).GetProperty("state").GetString().ShouldBe("done");
        (await StateAsync()).ShouldBe("ready");
        await _client.PostAsJsonAsync(
            $"/api/machines/{Sonata}/identity",
            new
            {
                donor = "SO-07A",
                level = "full",
                by = "Pim",
            }
        );
        (await StateAsync()).ShouldBe("stale");
        var second = await BuildAsync(Sonata);
        (await FilesAsync(second))["kit/config.plist"].ShouldContain("Sonata SO-07A");
        // The image with the one before is none of this one.
        (await StateAsync()).ShouldBe("missing");
        (await PutAsync(second)).GetProperty("state").GetString().ShouldBe("done");
        (await StateAsync()).ShouldBe("ready");
    }

    [Fact]
    public async Task One_that_is_too_old_gets_no_kit_and_is_told_why()
    {
        var plan = await _client.GetFromJsonAsync<JsonElement>("/api/machines/MR-0410/kit?system=canzona-6");
        plan.GetProperty("components").ValueKind.ShouldBe(JsonValueKind.Null);
        plan.GetProperty("whyNone").GetString()!.ShouldContain("class 0");
        (
            await _client.PostAsJsonAsync("/api/machines/MR-0410/kit", new { system = "canzona-6", by = "Pim" })
        ).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
    }
}
