using System.Diagnostics;
using System.IO.Compression;
using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace FreshBoot.Server.Tests;

/// <summary>A machine that leaves: its record as a ZIP that verifies, what falls due of it, and a change that touches it.</summary>
public sealed class UpkeepApiTests(DemoWorkshop demo) : IClassFixture<DemoWorkshop>
{
    /// <summary>A machine of the demo whose run is finished.</summary>
    private const string Tag = "MR-0406";

    private readonly HttpClient _client = demo.Client;

    [Theory]
    [InlineData("en", "Your computer runs Wickerwork 26.", "What was tried before it left", "page 1 of 1")]
    [InlineData("de", "Auf Ihrem Computer läuft Wickerwork 26.", "Was ausprobiert wurde, bevor er ging", "Seite 1 von")]
    public async Task The_sheet_is_read_as_pdf_json_and_page_in_each_language(
        string language,
        string title,
        string tried,
        string page
    )
    {
        var file = Path.GetTempFileName();
        try
        {
            await File.WriteAllBytesAsync(
                file,
                await _client.GetByteArrayAsync($"/api/machines/{Tag}/handover.pdf?lang={language}")
            );
            (await Read("qpdf", "--check", file)).ShouldContain("No syntax or stream encoding errors found");
            var about = await Read("pdfinfo", file);
            about.ShouldContain("Tagged:          yes");
            about.ShouldNotContain("€");
            var text = (await Read("pdftotext", "-enc", "UTF-8", file, "-")).Replace('\n', ' ');
            foreach (var said in new[] { title, tried, page, Tag })
                text.ShouldContain(said);
            // Fonts are in it: it looks the same wherever it is printed.
            (await Read("pdffonts", file))
                .Split('\n')[2..]
                .Where(l => l.Length > 0)
                .ShouldAllBe(l => l.Contains(" yes yes ", StringComparison.Ordinal));
        }
        finally
        {
            File.Delete(file);
        }
        var sheet = await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{Tag}/handover.json?lang={language}");
        sheet.GetProperty("title").GetString()!.Replace('\u00a0', ' ').ShouldBe(title);
        sheet.GetProperty("language").GetString().ShouldBe(language);
        using var ask = new HttpRequestMessage(HttpMethod.Get, $"/api/machines/{Tag}/handover?lang={language}")
        {
            Headers = { { "Accept", "text/html" } },
        };
        WebUtility
            .HtmlDecode(await (await _client.SendAsync(ask)).Content.ReadAsStringAsync())
            .ShouldContain($"<html lang=\"{language}\">");

        async Task<string> Read(string program, params string[] arguments)
        {
            using var process = Process.Start(
                new ProcessStartInfo(program, arguments) { RedirectStandardOutput = true, UseShellExecute = false }
            )!;
            var said = await process.StandardOutput.ReadToEndAsync();
            await process.WaitForExitAsync();
            process.ExitCode.ShouldBe(0);
            return said.Replace('\u00a0', ' ');
        }
    }

    [Fact]
    public async Task A_language_without_words_is_refused_with_those_that_there_are()
    {
        var answer = await _client.GetAsync($"/api/machines/{Tag}/handover.json?lang=xx");
        answer.StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await answer.JsonAsync()).GetProperty("wanted").GetString().ShouldBe("One of: de, en.");
    }

    [Theory]
    [InlineData("/api/machines/MR-0415/handover", HttpStatusCode.Conflict, "Nothing was done on this machine yet.")]
    [InlineData("/api/machines/MR-0415/data-treatment", HttpStatusCode.Conflict, "Nobody has said or done anything")]
    [InlineData($"/api/machines/{Tag}/data-treatment?lang=xx", HttpStatusCode.BadRequest, "no words of “xx”")]
    public async Task A_paper_that_is_not_to_be_had_says_so_on_a_page_where_a_page_is_asked_for(
        string path,
        HttpStatusCode status,
        string says
    )
    {
        using var ask = new HttpRequestMessage(HttpMethod.Get, path)
        {
            Headers = { { "Accept", "text/html,application/xhtml+xml,*/*;q=0.8" } },
        };
        var answer = await _client.SendAsync(ask);
        answer.StatusCode.ShouldBe(status);
        answer.Content.Headers.ContentType!.MediaType.ShouldBe("text/html");
        WebUtility.HtmlDecode(await answer.Content.ReadAsStringAsync()).ShouldContain(says);
        // A program that asks without naming a page gets what it can read.
        if (status == HttpStatusCode.Conflict)
            (await _client.GetAsync(path)).Content.Headers.ContentType!.MediaType.ShouldBe("application/problem+json");
    }

    [Fact]
    public async Task The_record_verifies_and_changed_by_one_bit_it_does_not()
    {
        var zip = await _client.GetByteArrayAsync($"/api/machines/{Tag}/handover.zip");
        var folder = Directory.CreateTempSubdirectory().FullName;
        try
        {
            await using (var archive = new ZipArchive(new MemoryStream(zip)))
                await archive.ExtractToDirectoryAsync(folder);
            var names = Directory
                .GetFiles(folder, "*", SearchOption.AllDirectories)
                .Select(f => f[(folder.Length + 1)..])
                .ToArray();
            foreach (
                var name in new[]
                {
                    "handover.html",
                    "handover.pdf",
                    "owner.json",
                    "handover.json",
                    "facts-before.json",
                    "facts-after.json",
                    "run.json",
                    "data-treatment.html",
                    "data-treatment.pdf",
                    "data-treatment.json",
                    "README.txt",
                }
            )
                Assert.Contains(name, names);
            Assert.Contains(names, n => n.StartsWith("probes/", StringComparison.Ordinal));
            Assert.Equal(names.Length - 1, File.ReadLines(Path.Combine(folder, "SHA256SUMS")).Count());
            Assert.Equal(0, await VerifyAsync(folder));

            foreach (var name in names.Where(n => n != "SHA256SUMS"))
            {
                var path = Path.Combine(folder, name);
                var bytes = await File.ReadAllBytesAsync(path);
                if (bytes.Length == 0)
                    continue;
                bytes[bytes.Length / 2] ^= 1;
                await File.WriteAllBytesAsync(path, bytes);
                Assert.NotEqual(0, await VerifyAsync(folder));
                bytes[bytes.Length / 2] ^= 1;
                await File.WriteAllBytesAsync(path, bytes);
            }
            Assert.Equal(0, await VerifyAsync(folder));
            // The chain of the run stands in it, event by event.
            var run = JsonNode.Parse(await File.ReadAllTextAsync(Path.Combine(folder, "run.json")))!;
            Assert.All(run["events"]!.AsArray(), e => Assert.Equal(64, e!["hash"]!.GetValue<string>().Length));
            // What was done with the data is what the run says, and not more.
            var erases = run["steps"]!
                .AsArray()
                .Where(step => $"{step!["kind"]}" == "confirm" && step["does"]!["drive"] is not null)
                .Select(step => $"{step!["id"]}")
                .ToArray();
            var erased = run["events"]!
                .AsArray()
                .Any(e => $"{e!["kind"]}" == "done" && erases.Contains($"{e["stepId"]}"));
            Assert.Contains(
                erased ? "a laboratory may still find something of it" : "No drive was erased.",
                await File.ReadAllTextAsync(Path.Combine(folder, "data-treatment.html")),
                StringComparison.Ordinal
            );
        }
        finally
        {
            Directory.Delete(folder, recursive: true);
        }
        Assert.Equal(
            HttpStatusCode.Conflict,
            (await _client.GetAsync("/api/machines/MR-0417/handover.zip")).StatusCode
        );
    }

    private static async Task<int> VerifyAsync(string folder)
    {
        using var sums = Process.Start(
            new ProcessStartInfo("sha256sum", ["-c", "--quiet", "SHA256SUMS"])
            {
                WorkingDirectory = folder,
                RedirectStandardOutput = true,
                RedirectStandardError = true,
                UseShellExecute = false,
            }
        )!;
        await Task.WhenAll(sums.StandardOutput.ReadToEndAsync(), sums.StandardError.ReadToEndAsync());
        await sums.WaitForExitAsync();
        return sums.ExitCode;
    }

    [Fact]
    public async Task What_falls_due_of_it_stands_in_list_and_calendar_and_a_change_that_touches_it_is_told()
    {
        var left = await _client.PutAsJsonAsync($"/api/machines/{Tag}/left", new { left = true, by = "Pim" });
        Assert.True(left.IsSuccessStatusCode);
        var due = await _client.GetFromJsonAsync<JsonElement>("/api/due");
        Assert.True(due.GetProperty("left").GetInt32() >= 1);
        var ends = due.GetProperty("due")
            .EnumerateArray()
            .First(d => d.GetProperty("kind").GetString() == "supportEnds" && d.GetProperty("tag").GetString() == Tag);
        Assert.Contains(due.GetProperty("due").EnumerateArray(), d => d.GetProperty("kind").GetString() == "orderDue");
        var days = due.GetProperty("due").EnumerateArray().Select(d => d.GetProperty("on").GetString()).ToArray();
        Assert.Equal(days.Order(StringComparer.Ordinal), days);

        var calendar = await _client.GetAsync("/api/calendar.ics");
        Assert.Equal("text/calendar", calendar.Content.Headers.ContentType!.MediaType);
        Assert.Contains(
            $"UID:{ends.GetProperty("id").GetString()}@fresh-boot",
            await calendar.Content.ReadAsStringAsync(),
            StringComparison.Ordinal
        );

        var runs = ends.GetProperty("id").GetString()![$"{Tag}-support-".Length..];
        var entry = (await SystemsAsync()).Single(e => $"{e["id"]}" == runs);
        entry["supportEnds"] = "2027-01-31";
        var touched = await RecallAsync("systems", $"{entry["id"]}", entry);
        var one = touched.GetProperty("touched").EnumerateArray().Single(t => t.GetProperty("tag").GetString() == Tag);
        Assert.Contains(
            one.GetProperty("why").EnumerateArray(),
            w => w.GetString()!.StartsWith("updates end on 31 Jan 2027", StringComparison.Ordinal)
        );
        Assert.Contains("31 January 2027", one.GetProperty("letter").GetString(), StringComparison.Ordinal);

        // One that no machine here rests on touches none, and one that does not hold is refused.
        var other = (await SystemsAsync()).First(s => $"{s["id"]}" == "thimble-desk");
        other["about"] = "Another sentence.";
        Assert.Empty((await RecallAsync("systems", "thimble-desk", other)).GetProperty("touched").EnumerateArray());
        other["class"] = "nonsense";
        var refused = await _client.PostAsJsonAsync(
            "/api/catalogue/recall",
            new
            {
                kind = "systems",
                id = "thimble-desk",
                entry = other,
            }
        );
        Assert.Equal(HttpStatusCode.UnprocessableEntity, refused.StatusCode);
        var unknown = await _client.PostAsJsonAsync(
            "/api/catalogue/recall",
            new
            {
                kind = "recipes",
                id = "thimble-desk",
                entry = other,
            }
        );
        Assert.Equal(HttpStatusCode.NotFound, unknown.StatusCode);
    }

    private async Task<JsonObject[]> SystemsAsync() =>
        [
            .. JsonNode
                .Parse(await _client.GetStringAsync("/api/catalogue/systems"))!
                .AsArray()
                .Select(i => i!["entry"]!.DeepClone().AsObject()),
        ];

    private async Task<JsonElement> RecallAsync(string kind, string id, JsonObject entry)
    {
        var answer = await _client.PostAsJsonAsync(
            "/api/catalogue/recall",
            new
            {
                kind,
                id,
                entry,
            }
        );
        Assert.Equal(HttpStatusCode.OK, answer.StatusCode);
        return await answer.JsonAsync();
    }
}
