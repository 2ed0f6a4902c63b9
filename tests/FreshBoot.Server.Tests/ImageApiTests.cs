using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Security.Cryptography;
using System.Text.Json;
using FreshBoot.Data.Images;
using Microsoft.Extensions.DependencyInjection;

namespace FreshBoot.Server.Tests;

/// <summary>The shelf of images over HTTP: uploads in pieces, checksums, recipes with their undo, and what is refused.</summary>
public sealed class ImageApiTests : IAsyncLifetime
{
    private readonly TestWorkshop _workshop = new();
    private HttpClient _client = null!;

    public Task InitializeAsync()
    {
        _client = _workshop.CreateClient();
        return Task.CompletedTask;
    }

    public async Task DisposeAsync() => await _workshop.DisposeAsync();

    private Task<JsonElement> PutAsync(string path, string? system, string? build = null) =>
        _client.PutImageAsync(path, system, build);

    private static ByteArrayContent Piece(byte[] all, int from, int to)
    {
        var content = new ByteArrayContent(all[from..to]);
        content.Headers.ContentRange = new ContentRangeHeaderValue(from, to - 1, all.Length);
        return content;
    }

    private async Task<(long Offset, bool Complete)> HeadAsync(int id)
    {
        using var answer = await _client.SendAsync(
            new HttpRequestMessage(HttpMethod.Head, $"/api/images/{id}/content")
        );
        return (
            long.Parse(answer.Headers.GetValues("Upload-Offset").Single()),
            answer.Headers.GetValues("Upload-Complete").Single() == "?1"
        );
    }

    [Fact]
    public async Task Before_a_source_goes_it_falls_due_and_the_last_image_of_it_is_not_deleted_by_one_word()
    {
        var coming = await BringAsync("a.iso", "62093", "2027-01-31", [1, 2, 3]);
        (await _client.GetFromJsonAsync<JsonElement>("/api/due"))
            .GetProperty("due")
            .EnumerateArray()
            .Single(d => d.GetProperty("kind").GetString() == "sourceGoes")
            .GetProperty("on")
            .GetString()
            .ShouldBe("2027-01-31");
        // It can still be fetched again.
        (await _client.DeleteAsync($"/api/images/{coming}")).StatusCode.ShouldBe(HttpStatusCode.NoContent);

        var gone = await BringAsync("b.iso", "62093", "2020-01-31", [4, 5, 6]);
        var refused = await _client.DeleteAsync($"/api/images/{gone}");
        refused.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await refused.JsonAsync()).GetProperty("where").GetString().ShouldBe("last");
        // Another build is no other copy of it; a second image of the same build is.
        await BringAsync("c.iso", "62094", null, [7, 8, 9]);
        (await _client.DeleteAsync($"/api/images/{gone}")).StatusCode.ShouldBe(HttpStatusCode.Conflict);
        await BringAsync("d.iso", "62093", null, [10, 11, 12]);
        (await _client.DeleteAsync($"/api/images/{gone}")).StatusCode.ShouldBe(HttpStatusCode.NoContent);

        var last = await BringAsync("e.iso", "1", "2020-01-31", [13]);
        (await _client.DeleteAsync($"/api/images/{last}?last=true")).StatusCode.ShouldBe(HttpStatusCode.NoContent);

        async Task<int> BringAsync(string name, string build, string? until, byte[] bytes)
        {
            var made = await (
                await _client.PostAsJsonAsync(
                    "/api/images",
                    new
                    {
                        name,
                        system = "tessaly-6-r1",
                        build,
                        from = "Tessaly's download page",
                        sourceUntil = until,
                        sizeBytes = bytes.Length,
                        by = "Pim",
                    }
                )
            ).JsonAsync();
            var id = made.GetProperty("image").GetProperty("id").GetInt32();
            (
                await _client.PutAsync($"/api/images/{id}/content", Piece(bytes, 0, bytes.Length))
            ).EnsureSuccessStatusCode();
            return id;
        }
    }

    [Fact]
    public async Task An_image_comes_in_pieces_is_hashed_on_the_way_and_compared_with_a_list()
    {
        var path = DemoImages.Of("tessaly-6-r1");
        var bytes = await File.ReadAllBytesAsync(path);
        var made = await (
            await _client.PostAsJsonAsync(
                "/api/images",
                new
                {
                    name = "../../tessaly.iso",
                    system = "tessaly-6-r1",
                    sizeBytes = bytes.Length,
                    by = "Pim",
                }
            )
        ).JsonAsync();
        var id = made.GetProperty("image").GetProperty("id").GetInt32();
        made.GetProperty("image").GetProperty("name").GetString().ShouldBe("tessaly.iso");
        (await HeadAsync(id)).ShouldBe((0, false));

        (await _client.PutAsync($"/api/images/{id}/content", Piece(bytes, 0, 1_000_001))).EnsureSuccessStatusCode();
        (await HeadAsync(id)).ShouldBe((1_000_001, false));
        // It does not follow on what is here: nothing of it is taken, and the right place is told.
        var wrong = await _client.PutAsync($"/api/images/{id}/content", Piece(bytes, 2_000_000, 2_000_100));
        wrong.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await wrong.JsonAsync()).GetProperty("wanted").GetString()!.ShouldContain("bytes 1000001-");
        // A part of an image is offered nowhere.
        (await _client.GetAsync($"/api/images/{id}/content")).StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await _client.GetAsync($"/api/images/{id}/inspection")).StatusCode.ShouldBe(HttpStatusCode.Conflict);
        // Longer than announced: refused, and what was here stays.
        var much = new ByteArrayContent(new byte[bytes.Length]);
        much.Headers.ContentRange = new ContentRangeHeaderValue(1_000_001, 1_000_000 + bytes.Length);
        (await _client.PutAsync($"/api/images/{id}/content", much)).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await HeadAsync(id)).ShouldBe((1_000_001, false));

        var sheet = await (
            await _client.PutAsync($"/api/images/{id}/content", Piece(bytes, 1_000_001, bytes.Length))
        ).JsonAsync();
        sheet
            .GetProperty("image")
            .GetProperty("sha256")
            .GetString()
            .ShouldBe((await ProgramOutput.Of("sha256sum", path))[..64]);
        (await HeadAsync(id)).ShouldBe((bytes.Length, true));
        (await _client.GetByteArrayAsync($"/api/images/{id}/content")).ShouldBe(bytes);

        // The list that the script of the demo images wrote with sha256sum.
        var list =
            (await File.ReadAllTextAsync(Path.Combine(Path.GetDirectoryName(path)!, "SHA256SUMS")))
            + $"{new string('0', 64)} *tessaly.iso\n";
        (
            await (
                await _client.PostAsJsonAsync("/api/images/checksums", new { text = list, from = "the maker" })
            ).JsonAsync()
        )
            .GetProperty("lines")
            .GetInt32()
            .ShouldBe(9);
        (await _client.GetFromJsonAsync<JsonElement>($"/api/images/{id}"))
            .GetProperty("checksum")
            .GetProperty("says")
            .GetString()
            .ShouldBe("matches");
        var odd = await PutAsync(DemoImages.Of("driftway"), null);
        await _client.PutAsJsonAsync(
            $"/api/images/{odd.GetProperty("image").GetProperty("id").GetInt32()}",
            new { version = 2, image = new { name = "tessaly-5.iso", by = "Pim" } }
        );
        (await _client.GetFromJsonAsync<JsonElement>("/api/images"))
            .GetProperty("images")
            .EnumerateArray()
            .Select(i => i.GetProperty("checksum").GetProperty("says").GetString())
            .ShouldContain("matches");
        (
            await _client.PostAsJsonAsync("/api/images/checksums", new { text = "no list\n", from = "x" })
        ).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);

        // The same bytes again are recognised, and take no room twice.
        var twice = await PutAsync(path, "tessaly-6-r1");
        twice.GetProperty("image").GetProperty("id").GetInt32().ShouldBe(id);
        Directory.GetFiles(Path.Combine(_workshop.Data, "images")).Length.ShouldBe(2);
    }

    [Fact]
    public async Task A_small_image_comes_in_one_form_and_a_file_of_the_folder_by_its_name()
    {
        var path = DemoImages.Of("plover-light-5");
        using var form = new MultipartFormDataContent
        {
            { new ByteArrayContent(await File.ReadAllBytesAsync(path)), "file", "plover.iso" },
            { new StringContent("plover-light-5"), "system" },
        };
        var sheet = await (await _client.PostAsync("/api/images", form)).JsonAsync();
        sheet.GetProperty("starts").GetProperty("biosDisc").GetProperty("can").GetBoolean().ShouldBeTrue();

        File.Copy(DemoImages.Of("driftway"), Path.Combine(_workshop.Data, "images", "put-here.iso"));
        (await _client.GetFromJsonAsync<JsonElement>("/api/images"))
            .GetProperty("unnamed")[0]
            .GetProperty("name")
            .GetString()
            .ShouldBe("put-here.iso");
        var job = await (
            await _client.PostAsJsonAsync(
                "/api/images",
                new
                {
                    name = "driftway.iso",
                    system = "driftway",
                    file = "put-here.iso",
                    by = "Pim",
                }
            )
        ).JsonAsync();
        (await _client.DoneAsync(job)).GetProperty("state").GetString().ShouldBe("done");
        (await _client.GetFromJsonAsync<JsonElement>("/api/images"))
            .GetProperty("unnamed")
            .GetArrayLength()
            .ShouldBe(0);
        (
            await _client.PostAsJsonAsync(
                "/api/images",
                new
                {
                    name = "x",
                    file = "../fresh-boot.db",
                    by = "Pim",
                }
            )
        ).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task What_is_announced_must_make_sense_and_find_room()
    {
        (await _client.PostAsJsonAsync("/api/images", new { name = "a.iso", sizeBytes = 0 })).StatusCode.ShouldBe(
            HttpStatusCode.BadRequest
        );
        (
            await _client.PostAsJsonAsync(
                "/api/images",
                new
                {
                    name = "a.iso",
                    sizeBytes = 5,
                    system = "none",
                }
            )
        ).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        var full = await _client.PostAsJsonAsync("/api/images", new { name = "a.iso", sizeBytes = 1L << 40 });
        full.StatusCode.ShouldBe(HttpStatusCode.InsufficientStorage);
        (await full.JsonAsync()).GetProperty("detail").GetString()!.ShouldContain("are free");
    }

    /// <summary>An operation of each kind on the demo image, and a file that it changes.</summary>
    public static TheoryData<string, string> Operations =>
        new()
        {
            {
                """{"op":"replaceText","path":"setup/gates.conf","find":"gate tpm check","with":"gate tpm skip"}""",
                "setup/gates.conf"
            },
            {
                """{"op":"insertLines","path":"setup/processors.conf","after":"processor \"Palisade P5-\"","lines":["processor \"Palisade P2-\""]}""",
                "setup/processors.conf"
            },
            { """{"op":"removeLines","path":"setup/gates.conf","lines":["gate uefi check"]}""", "setup/gates.conf" },
            {
                """{"op":"setIni","path":"setup/setup.ini","section":"updates","key":"channel","old":"official","value":"preview"}""",
                "setup/setup.ini"
            },
            {
                """{"op":"patchJson","path":"setup/checks.json","patch":[{"op":"add","path":"/upgrade/from/-","value":"tessaly-4"}]}""",
                "setup/checks.json"
            },
            {
                """{"op":"setXml","path":"setup/steps.xml","xPath":"//step[@id='account']/@shown","old":"yes","value":"no"}""",
                "setup/steps.xml"
            },
            { """{"op":"addFile","path":"setup/new/deep/file.txt","text":"hello"}""", "setup/new/deep/file.txt" },
            {
                """{"op":"replaceFile","path":"setup/loader.conf","oldSha256":"LOADER","text":"arguments loud\n"}""",
                "setup/loader.conf"
            },
            { """{"op":"removeFile","path":"setup/loader.conf","oldSha256":"LOADER"}""", "setup/loader.conf" },
            { """{"op":"renameFile","path":"setup/loader.conf","to":"setup/loader.old"}""", "setup/loader.old" },
            {
                """{"op":"replaceBytes","path":"setup/system.conf","offset":0,"old":"736574","new":"534554"}""",
                "setup/system.conf"
            },
            {
                """{"op":"appendArguments","path":"setup/loader.conf","command":"arguments","arguments":["more"]}""",
                "setup/loader.conf"
            },
        };

    [Fact]
    public async Task Each_operation_makes_an_image_that_starts_as_before_is_known_the_second_time_and_is_undone_to_the_byte()
    {
        var path = DemoImages.Of("tessaly-6-r1");
        var original = await File.ReadAllBytesAsync(path);
        var image = await PutAsync(path, "tessaly-6-r1", "61140");
        var id = image.GetProperty("image").GetProperty("id").GetInt32();
        var loader = (await _client.GetFromJsonAsync<JsonElement>($"/api/images/{id}/file?path=setup/loader.conf"))
            .GetProperty("sha256")
            .GetString()!;
        foreach (var row in Operations)
        {
            var (operation, changed) = ((string)row[0], (string)row[1]);
            var recipe =
                $$"""{"id":"one","name":"One","for":{"system":"tessaly-6-r1","builds":["61140"],"files":[]},"operations":[{{operation.Replace("LOADER", loader, StringComparison.Ordinal)}}]}""";
            var version = (await _client.GetFromJsonAsync<JsonElement>("/api/recipes"))
                .EnumerateArray()
                .Where(r => r.GetProperty("id").GetString() == "one")
                .Select(r => r.GetProperty("version").GetInt32())
                .FirstOrDefault();
            (
                await _client.PutAsJsonAsync(
                    "/api/recipes/one",
                    new
                    {
                        text = recipe,
                        version,
                        by = "Pim",
                    }
                )
            ).EnsureSuccessStatusCode();

            var patch = await (
                await _client.PostAsJsonAsync($"/api/images/{id}/patch", new { recipe = "one", by = "Pim" })
            ).JsonAsync();
            patch
                .GetProperty("files")
                .EnumerateArray()
                .Select(f => f.GetProperty("path").GetString())
                .ShouldContain(changed);
            var job = await _client.DoneAsync(patch.GetProperty("job"));
            job.GetProperty("state").GetString().ShouldBe("done", $"{operation}: {job.GetProperty("says")}");
            var made = job.GetProperty("result").GetProperty("imageId").GetInt32();

            var sheet = await _client.GetFromJsonAsync<JsonElement>($"/api/images/{made}");
            sheet.GetProperty("starts").ToString().ShouldBe(image.GetProperty("starts").ToString(), operation);
            sheet
                .GetProperty("manifest")
                .GetProperty("oldSha256")
                .GetString()
                .ShouldBe(image.GetProperty("image").GetProperty("sha256").GetString());
            // An independent reader agrees about the changed file.
            var file = patch
                .GetProperty("files")
                .EnumerateArray()
                .First(f => f.GetProperty("path").GetString() == changed);
            if (file.GetProperty("newSha256").GetString() is { } wanted)
            {
                var copy = Path.Combine(_workshop.Data, $"x{made}");
                await ProgramOutput.Of(
                    "xorriso",
                    "-osirrox",
                    "on",
                    "-indev",
                    Path.Combine(_workshop.Data, "images", $"{made}.image"),
                    "-extract",
                    $"/{changed}",
                    copy
                );
                Convert
                    .ToHexStringLower(SHA256.HashData(await File.ReadAllBytesAsync(copy)))
                    .ShouldBe(wanted, operation);
            }

            var again = await (
                await _client.PostAsJsonAsync($"/api/images/{made}/patch", new { recipe = "one", by = "Pim" })
            ).JsonAsync();
            again.GetProperty("alreadyApplied").GetBoolean().ShouldBeTrue(operation);
            again.GetProperty("job").ValueKind.ShouldBe(JsonValueKind.Null);

            // While a patched image comes from it, the original is not taken away.
            (await _client.DeleteAsync($"/api/images/{id}")).StatusCode.ShouldBe(HttpStatusCode.Conflict);
            var undone = await (await _client.PostAsync($"/api/images/{made}/undo", null)).JsonAsync();
            undone.GetProperty("image").GetProperty("id").GetInt32().ShouldBe(id);
            (await _client.GetAsync($"/api/images/{made}/content")).StatusCode.ShouldBe(HttpStatusCode.Gone);
        }
        (await _client.GetByteArrayAsync($"/api/images/{id}/content")).ShouldBe(original);
        Directory.GetFiles(Path.Combine(_workshop.Data, "images")).ShouldHaveSingleItem();

        // Undo says beforehand why it cannot: the original is not what it was.
        var last = await _client.DoneAsync(
            (
                await (
                    await _client.PostAsJsonAsync(
                        $"/api/images/{id}/patch",
                        new { recipe = "tessaly-6-r1-gates", by = "Pim" }
                    )
                ).JsonAsync()
            ).GetProperty("job")
        );
        await File.AppendAllTextAsync(Path.Combine(_workshop.Data, "images", $"{id}.image"), "x");
        var refused = await _client.PostAsync(
            $"/api/images/{last.GetProperty("result").GetProperty("imageId").GetInt32()}/undo",
            null
        );
        refused.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await refused.JsonAsync()).GetProperty("detail").GetString()!.ShouldContain("Nothing was undone");
    }

    [Fact]
    public async Task A_dry_run_makes_nothing_whether_it_is_asked_for_in_the_address_or_in_the_body()
    {
        var id = (await PutAsync(DemoImages.Of("tessaly-6-r1"), "tessaly-6-r1", "61140"))
            .GetProperty("image")
            .GetProperty("id")
            .GetInt32();
        foreach (var (query, body) in new[] { ("?dryRun=true", (bool?)null), ("", true) })
        {
            var answer = await (
                await _client.PostAsJsonAsync(
                    $"/api/images/{id}/patch{query}",
                    new
                    {
                        recipe = "tessaly-6-r1-gates",
                        by = "Pim",
                        dryRun = body,
                    }
                )
            ).JsonAsync();
            answer.GetProperty("job").ValueKind.ShouldBe(JsonValueKind.Null);
            answer.GetProperty("files").GetArrayLength().ShouldBePositive();
            answer.GetProperty("losses").GetArrayLength().ShouldBe(0);
        }
        (await _client.GetFromJsonAsync<JsonElement>("/api/images")).GetProperty("images").GetArrayLength().ShouldBe(1);
    }

    [Fact]
    public async Task Of_two_images_with_equal_bytes_each_is_taken_back_to_the_one_that_it_was_made_from()
    {
        async Task<int> ParentAsync(byte content)
        {
            var file = Path.Combine(_workshop.Data, $"{content}.iso");
            await File.WriteAllBytesAsync(file, [content, content]);
            return (await PutAsync(file, null)).GetProperty("image").GetProperty("id").GetInt32();
        }
        int[] parents = [await ParentAsync(1), await ParentAsync(2)];
        var uploads = _workshop.Services.GetRequiredService<ImageUploads>();
        var made = new List<StoredImage>();
        foreach (var parent in parents.Append(parents[0]))
        {
            var file = Path.Combine(_workshop.Data, $"{Guid.NewGuid():N}.made");
            await File.WriteAllBytesAsync(file, [7, 7, 7]);
            made.Add(
                await uploads.TakeFileAsync(
                    file,
                    new ImageEntry("c.iso", null, 0, null, "made here", "own", "", "Pim"),
                    parent,
                    "{}",
                    copy: true,
                    _ => { },
                    CancellationToken.None
                )
            );
        }
        made.Select(m => m.Parent).ShouldBe([parents[0], parents[1], parents[0]]);
        made[0].Id.ShouldNotBe(made[1].Id);
        // Made twice from one it is there once.
        made[2].Id.ShouldBe(made[0].Id);
    }

    [Fact]
    public async Task A_patch_of_another_build_or_system_is_refused_before_anything_is_made()
    {
        var image = await PutAsync(DemoImages.Of("tessaly-6-r2"), null);
        var id = image.GetProperty("image").GetProperty("id").GetInt32();
        var refused = await _client.PostAsJsonAsync(
            $"/api/images/{id}/patch",
            new { recipe = "tessaly-6-r1-gates", by = "Pim" }
        );
        refused.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        var problem = await refused.JsonAsync();
        problem.GetProperty("detail").GetString()!.ShouldContain("another build");
        problem.GetProperty("where").GetString().ShouldBe("setup/system.conf");
        problem.GetProperty("wanted").GetString()!.ShouldContain("61140");
        // A draft shows what it would do, and cannot be applied.
        (
            await _client.PostAsJsonAsync($"/api/images/{id}/patch", new { draft = "{}", by = "Pim" })
        ).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await _client.GetFromJsonAsync<JsonElement>("/api/images")).GetProperty("images").GetArrayLength().ShouldBe(1);
    }

    [Fact]
    public async Task An_image_whose_files_lie_in_udf_alone_is_made_a_stick_image_or_refused_beforehand()
    {
        var tree = Directory.CreateDirectory(Path.Combine(_workshop.Data, "tree", "setup")).Parent!.FullName;
        await File.WriteAllTextAsync(Path.Combine(tree, "setup", "gates.conf"), "gate tpm check\n");
        // Hidden from ISO 9660, as large installers do it.
        async Task<int> MakeAsync(string name)
        {
            var image = Path.Combine(_workshop.Data, name);
            await ProgramOutput.Of("genisoimage", "-quiet", "-udf", "-hide", "*", "-V", "UDFONLY", "-o", image, tree);
            return (await PutAsync(image, "tessaly-6-r1")).GetProperty("image").GetProperty("id").GetInt32();
        }
        (
            await _client.PutAsJsonAsync(
                "/api/recipes/udf",
                new
                {
                    text = """{"id":"udf","name":"U","for":{"system":"tessaly-6-r1","builds":[],"files":[]},"operations":[{"op":"replaceText","path":"setup/gates.conf","find":"check","with":"skip"}]}""",
                    version = 0,
                    by = "Pim",
                }
            )
        ).EnsureSuccessStatusCode();
        var without = await MakeAsync("without.iso");
        var refused = await _client.PostAsJsonAsync(
            $"/api/images/{without}/patch?dryRun=true",
            new { recipe = "udf", by = "Pim" }
        );
        refused.StatusCode.ShouldBe(HttpStatusCode.Conflict, await refused.Content.ReadAsStringAsync());
        (await refused.JsonAsync()).GetProperty("detail").GetString()!.ShouldContain("no UEFI loader");

        Directory.CreateDirectory(Path.Combine(tree, "EFI", "BOOT"));
        await ProgramOutput.Of(
            "mcopy",
            "-i",
            DemoImages.EfiOf("tessaly-6-r1"),
            "::/EFI/BOOT/BOOTX64.EFI",
            Path.Combine(tree, "EFI", "BOOT")
        );
        var with = await MakeAsync("with.iso");
        var patch = await (
            await _client.PostAsJsonAsync($"/api/images/{with}/patch", new { recipe = "udf", by = "Pim" })
        ).JsonAsync();
        patch.GetProperty("method").GetString().ShouldBe("stick");
        patch.GetProperty("because").GetString()!.ShouldContain("UDF");
        var job = await _client.DoneAsync(patch.GetProperty("job"));
        job.GetProperty("state").GetString().ShouldBe("done", job.GetProperty("says").ToString());
        var made = Path.Combine(
            _workshop.Data,
            "images",
            $"{job.GetProperty("result").GetProperty("imageId").GetInt32()}.image"
        );
        // What independent programs say of the file system that was written.
        (await ProgramOutput.Of("mtype", "-i", $"{made}@@1048576", "::/setup/gates.conf")).ShouldBe("gate tpm skip\n");
        await FatAgreesAsync(made);
    }

    internal static async Task FatAgreesAsync(string disk)
    {
        (await ProgramOutput.Of("sfdisk", "--dump", disk)).ShouldContain("type=c");
        var volume = $"{disk}.fat";
        await ProgramOutput.Of("dd", $"if={disk}", $"of={volume}", "bs=1M", "skip=1", "conv=sparse", "status=none");
        (await ProgramOutput.Of("fsck.vfat", "-n", volume)).ShouldNotContain("differ");
        File.Delete(volume);
    }
}

/// <summary>Images over HTTP, in a word.</summary>
internal static class ImageAnswers
{
    /// <summary>Puts an image on the shelf.</summary>
    public static async Task<JsonElement> PutImageAsync(
        this HttpClient client,
        string path,
        string? system,
        string? build = null
    )
    {
        var made = await (
            await client.PostAsJsonAsync(
                "/api/images",
                new
                {
                    name = Path.GetFileName(path),
                    system,
                    build,
                    sizeBytes = new FileInfo(path).Length,
                    by = "Pim",
                }
            )
        ).JsonAsync();
        await using var file = File.OpenRead(path);
        var answer = await client.PutAsync(
            $"/api/images/{made.GetProperty("image").GetProperty("id").GetInt32()}/content",
            new StreamContent(file)
        );
        answer.StatusCode.ShouldBe(HttpStatusCode.OK, await answer.Content.ReadAsStringAsync());
        return await answer.JsonAsync();
    }

    /// <summary>Waits for a job to its end.</summary>
    public static async Task<JsonElement> DoneAsync(this HttpClient client, JsonElement job)
    {
        var id = job.GetProperty("id").GetInt32();
        while (true)
        {
            job = await client.GetFromJsonAsync<JsonElement>($"/api/jobs/{id}");
            if (job.GetProperty("state").GetString() is not ("queued" or "running"))
                return job;
            await Task.Delay(50);
        }
    }
}
