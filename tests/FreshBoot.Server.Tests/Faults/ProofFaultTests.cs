using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using FreshBoot.Data;
using FreshBoot.Data.Images;
using FreshBoot.Workshop.Simulated;
using Microsoft.Extensions.DependencyInjection;

namespace FreshBoot.Server.Tests.Faults;

/// <summary>Faults of proof and truth, each under its number.</summary>
public sealed class ProofFaultTests : IAsyncLifetime
{
    private readonly TestWorkshop _workshop = new();
    private HttpClient _client = null!;
    private RunDriver _runs = null!;

    public Task InitializeAsync()
    {
        _client = _workshop.CreateClient();
        _runs = new RunDriver(_client);
        return Task.CompletedTask;
    }

    public async Task DisposeAsync() => await _workshop.DisposeAsync();

    private static byte[] Bundle(string tag, int hour, string? code = null) =>
        SimulatedProbe.Bundle(
            TestWorkshop.Stile(tag),
            new DateTimeOffset(2026, 12, 3, hour, 0, 0, TimeSpan.Zero),
            code
        );

    private async Task<JsonElement> PostAsync(string tag, byte[] bundle, string run)
    {
        (
            await _client.PostAsync($"/api/machines/{tag}/bundles", TestWorkshop.Form(null, ("b.tar.gz", bundle)))
        ).EnsureSuccessStatusCode();
        return await _client.GetFromJsonAsync<JsonElement>($"/api/runs/{run}");
    }

    private static int Proved(JsonElement run) =>
        run.GetProperty("acceptance")
            .EnumerateArray()
            .Count(l => l.GetProperty("by").GetString() != "step" && l.GetProperty("proof").GetString() == "proved");

    [Fact]
    public async Task F1_The_intakes_bundle_posted_again_proves_nothing_and_only_the_code_of_the_step_does()
    {
        var run = await _runs.BeginAsync("MR-0801", "tessaly-6-r2", "patch");
        var id = run.GetProperty("id").GetString()!;
        run = await _runs.UntilAsync(run, "prove.probe");
        var before = Proved(run);

        // The very bundle of the intake, and another one without a code.
        run = await PostAsync("MR-0801", Bundle("MR-0801", 12), id);
        Proved(run).ShouldBe(before);
        run = await PostAsync("MR-0801", Bundle("MR-0801", 15), id);
        Proved(run).ShouldBe(before);
        (await _runs.SayAsync(run, "done", "prove.probe")).StatusCode.ShouldBe(HttpStatusCode.Conflict);

        run = await (await _runs.SayAsync(run, "begun", "prove.probe")).JsonAsync();
        var code = run.GetProperty("state").GetProperty("code").GetString()!;
        code.Length.ShouldBe(8);
        run = await PostAsync("MR-0801", Bundle("MR-0801", 16, "abcd2345"), id);
        run.GetProperty("proved").GetBoolean().ShouldBeFalse();
        (await _runs.SayAsync(run, "done", "prove.probe")).StatusCode.ShouldBe(HttpStatusCode.Conflict);

        // Of another machine, and then here too: it was here before.
        (await _client.PostAsync("/api/machines/import", TestWorkshop.BundleOf("MR-0819"))).EnsureSuccessStatusCode();
        var foreign = Bundle("MR-0801", 17, code);
        await PostAsync("MR-0819", foreign, id);
        run = await PostAsync("MR-0801", foreign, id);
        run.GetProperty("proved").GetBoolean().ShouldBeFalse();

        run = await PostAsync("MR-0801", Bundle("MR-0801", 18, code), id);
        run.GetProperty("proved").GetBoolean().ShouldBeTrue();
        Proved(run).ShouldBe(7);
        (await _runs.SayAsync(run, "done", "prove.probe")).StatusCode.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task F1_A_command_for_the_machine_carries_the_code_by_itself()
    {
        var run = await _runs.UntilAsync(await _runs.BeginAsync("MR-0802", "tessaly-6-r2", "patch"), "prove.probe");
        run = await (await _runs.SayAsync(run, "begun", "prove.probe")).JsonAsync();
        var given = await (await _client.PostAsync("/api/probe-codes?tag=MR-0802", null)).JsonAsync();
        var script = await _client.GetStringAsync($"/probe/{given.GetProperty("code").GetString()}");
        script.Split('\n')[1].ShouldBe($"FRESHBOOT_CODE='{run.GetProperty("state").GetProperty("code").GetString()}'");
    }

    [Fact]
    public async Task F3_A_hash_that_was_cut_off_midway_counts_for_nothing()
    {
        var uploads = _workshop.Services.GetRequiredService<ImageUploads>();
        var bytes = new byte[3 << 20];
        Random.Shared.NextBytes(bytes);
        var image = await uploads.AnnounceAsync(
            new ImageEntry("a.iso", null, bytes.Length, null, "", "maker", "", "Pim"),
            default
        );
        await uploads.TakeAsync(image.Id, 0, new MemoryStream(bytes, 0, 2 << 20), default);

        // As after a restart: the hash so far is not in memory, and reading it again is cut off.
        var again = new ImageUploads(
            _workshop.Services.GetRequiredService<Microsoft.EntityFrameworkCore.IDbContextFactory<FreshBootDb>>(),
            _workshop.Services.GetRequiredService<ImageStore>(),
            _workshop.Services.GetRequiredService<DataFolder>()
        );
        using (var cut = new CancellationTokenSource())
        {
            await cut.CancelAsync();
            await Should.ThrowAsync<OperationCanceledException>(() =>
                again.TakeAsync(image.Id, 2 << 20, new MemoryStream(bytes, 2 << 20, 1 << 20), cut.Token)
            );
        }
        // A refused piece in between must not leave a hash that is not of what is here.
        await Should.ThrowAsync<RefusedException>(() =>
            again.TakeAsync(image.Id, 2 << 20, new MemoryStream(new byte[2 << 20]), default)
        );
        var whole = await again.TakeAsync(image.Id, 2 << 20, new MemoryStream(bytes, 2 << 20, 1 << 20), default);
        whole.Sha256.ShouldBe(Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(bytes)));
    }

    [Fact]
    public async Task F4_The_middle_of_a_chain_of_patches_is_not_undone_and_what_is_worked_on_is_not_taken_away()
    {
        var a = (await _client.PutImageAsync(DemoImages.Of("tessaly-6-r1"), "tessaly-6-r1", "61140"))
            .GetProperty("image")
            .GetProperty("id")
            .GetInt32();
        var b = await PatchAsync(a, "tessaly-6-r1-gates");
        var c = await PatchAsync(b, "tessaly-6-r1-quiet");

        var refused = await _client.PostAsync($"/api/images/{b}/undo", null);
        refused.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await refused.JsonAsync()).GetProperty("detail").GetString()!.ShouldContain("came from it");
        (await _client.PostAsync($"/api/images/{c}/undo", null)).EnsureSuccessStatusCode();
        (await _client.PostAsync($"/api/images/{b}/undo", null)).EnsureSuccessStatusCode();

        // Asked for just now: until that job has ended the image stays.
        var patch = await (
            await _client.PostAsJsonAsync($"/api/images/{a}/patch", new { recipe = "tessaly-6-r1-gates", by = "Pim" })
        ).JsonAsync();
        var taken = await _client.DeleteAsync($"/api/images/{a}");
        taken.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        await _client.DoneAsync(patch.GetProperty("job"));
    }

    private async Task<int> PatchAsync(int image, string recipe)
    {
        var answer = await _client.PostAsJsonAsync($"/api/images/{image}/patch", new { recipe, by = "Pim" });
        var job = await _client.DoneAsync((await answer.JsonAsync()).GetProperty("job"));
        return job.GetProperty("result").GetProperty("imageId").GetInt32();
    }

    [Fact]
    public async Task F11_A_run_begins_with_all_that_it_takes_or_not_at_all()
    {
        // Two machines of one kind want the one module on the shelf.
        (await _client.PostAsJsonAsync("/api/parts", TestWorkshop.Module("one module"))).EnsureSuccessStatusCode();
        string[] tags = ["MR-0821", "MR-0822", "MR-0823", "MR-0824"];
        var routes = new List<JsonElement>();
        foreach (var tag in tags)
        {
            await _runs.MachineAsync(tag);
            await _runs.EnterAsync(tag, "tpm.version", "2.0");
            await _runs.EnterAsync(tag, "firmware.secureBoot", "able");
            routes.Add(
                (await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{tag}/routes"))
                    .EnumerateArray()
                    .First(r =>
                        r.GetProperty("cures")
                            .EnumerateArray()
                            .Any(c => c.GetProperty("does").GetString()!.Contains("shelf"))
                    )
            );
        }
        var answers = await Task.WhenAll(tags.Zip(routes).Select(p => _runs.PostRunAsync(p.First, p.Second)));
        answers.Count(a => a.StatusCode == HttpStatusCode.Created).ShouldBe(1);
        answers.Count(a => a.StatusCode == HttpStatusCode.Conflict).ShouldBe(3);
        var runs = (await _client.GetFromJsonAsync<JsonElement>("/api/machines"))
            .EnumerateArray()
            .Count(m => m.GetProperty("run").ValueKind != JsonValueKind.Null);
        runs.ShouldBe(1);
    }

    [Fact]
    public async Task F17_One_event_id_is_one_event_and_the_same_word_at_once_gets_the_same_answer()
    {
        var run = await _runs.BeginAsync("MR-0830", "tessaly-6-r2", "patch");
        var first = run.GetProperty("steps")[0].GetProperty("id").GetString()!;
        (await _runs.SayAsync(run, "note", first, new { text = "one" }, "e-1")).EnsureSuccessStatusCode();
        (await _runs.SayAsync(run, "note", first, new { text = "two" }, "e-1")).StatusCode.ShouldBe(
            HttpStatusCode.Conflict
        );
        for (var round = 0; round < 8; round++)
        {
            run = await _client.GetFromJsonAsync<JsonElement>($"/api/runs/{run.GetProperty("id").GetString()}");
            var answers = await Task.WhenAll(
                Enumerable
                    .Range(0, 5)
                    .Select(_ => _runs.SayAsync(run, "note", first, new { text = "same" }, $"r-{round}"))
            );
            answers.ShouldAllBe(a => a.StatusCode == HttpStatusCode.OK);
        }
    }
}
