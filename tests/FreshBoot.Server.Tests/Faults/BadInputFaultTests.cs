using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;

namespace FreshBoot.Server.Tests.Faults;

/// <summary>Faults of bad input, each under its number: a refusal says what, where and what would be right.</summary>
public sealed class BadInputFaultTests : IAsyncLifetime
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

    private static async Task RefusedAsync(HttpResponseMessage answer, string what)
    {
        var status = (int)answer.StatusCode;
        var text = await answer.Content.ReadAsStringAsync();
        status.ShouldBeInRange(400, 499, $"{what}: {text}");
        var problem = JsonSerializer.Deserialize<JsonElement>(text);
        foreach (var member in (string[])["detail", "where", "wanted"])
            problem.GetProperty(member).GetString().ShouldNotBeNullOrEmpty($"{what}: {text}");
        answer.Headers.GetValues("X-Content-Type-Options").ShouldBe(["nosniff"], what);
        answer.Headers.Contains("Content-Security-Policy").ShouldBeTrue(what);
    }

    private Task<HttpResponseMessage> PostAsync(string path, string json) =>
        _client.PostAsync(path, new StringContent(json, Encoding.UTF8, "application/json"));

    [Fact]
    public async Task F25_What_is_no_number_no_text_or_no_list_is_refused_with_its_place()
    {
        await _runs.MachineAsync("MR-0851");
        await RefusedAsync(await _client.GetAsync("/api/machines/MR-0851/routes?weights=NaN,1,1,1,1"), "NaN");
        await RefusedAsync(await _client.GetAsync("/api/machines/MR-0851/routes?weights=1e999"), "1e999");

        var run = await _runs.BeginAsync("MR-0852", "tessaly-6-r2", "patch");
        var first = run.GetProperty("steps")[0].GetProperty("id").GetString()!;
        await RefusedAsync(await _runs.SayAsync(run, "note", first, new { text = (string?)null }), "null in an event");
        await RefusedAsync(
            await PostAsync(
                "/api/orders",
                """{"order":{"id":"","name":"Mill","about":"x","machines":1,"due":null,"newOwner":true,"shared":false,"everyday":true,"lookedAfterBy":"owner","needs":[null]},"by":"Pim"}"""
            ),
            "null among needs"
        );
        await RefusedAsync(
            await PostAsync("/api/recipes", """{"text":"{\"id\":\"x\",\"operations\":[null]}","by":"Pim"}"""),
            "null among operations"
        );
        await RefusedAsync(
            await _client.PutAsync(
                "/api/machines/MR-0851/facts/identity.model",
                new StringContent(
                    """{"value":"\ud800","source":"seen","by":"Pim"}""",
                    Encoding.UTF8,
                    "application/json"
                )
            ),
            "a lone surrogate"
        );
        await RefusedAsync(
            await _client.PutAsJsonAsync(
                "/api/machines/MR-0851/facts/memory.installedBytes",
                new
                {
                    value = "٣ GB",
                    source = "seen",
                    by = "Pim",
                }
            ),
            "other digits"
        );
        await RefusedAsync(
            await _client.PostAsync(
                "/api/orders",
                new ByteArrayContent("{}"u8.ToArray())
                {
                    Headers = { ContentType = new("application/json") { CharSet = "utf-7" } },
                }
            ),
            "utf-7"
        );
    }

    [Fact]
    public async Task F25_A_lone_surrogate_in_what_programs_print_is_taken_as_unreadable_text_not_as_our_fault()
    {
        foreach (
            var (name, text) in new[]
            {
                ("lscpu.json", """{"lscpu":[{"field":"Model name:","data":"Corvane \ud800"}]}"""),
                ("lsblk.json", """{"blockdevices":[{"name":"sda","type":"disk","size":1,"model":"\ud800"}]}"""),
                ("smart-sda.json", """{"model_name":"\udfff","smart_status":{"passed":true}}"""),
            }
        )
        {
            var tag = $"MR-{name[..3].ToUpperInvariant()}";
            var answer = await _client.PostAsync(
                "/api/machines/import",
                TestWorkshop.Form(tag, (name, Encoding.UTF8.GetBytes(text)))
            );
            // Taken with what can be read of it, or refused with its place: never our fault, never that a machine is there.
            ((int)answer.StatusCode).ShouldBeOneOf(
                [201, 400, 422],
                $"{name}: {await answer.Content.ReadAsStringAsync()}"
            );
        }
    }

    [Fact]
    public async Task F25_A_parameter_that_is_missing_is_named()
    {
        var answer = await _client.GetAsync("/api/wanted/check");
        await RefusedAsync(answer, "no model");
        var problem = await answer.JsonAsync();
        problem.GetProperty("where").GetString().ShouldBe("model");
        problem.GetProperty("detail").GetString()!.ShouldNotContain("cut off");
    }

    [Fact]
    public async Task F26_Of_ten_orders_renamed_at_once_to_one_name_one_has_it()
    {
        static object Order(string name) =>
            new
            {
                id = "",
                name,
                about = "A desk.",
                machines = 1,
                due = (string?)null,
                newOwner = true,
                shared = false,
                everyday = true,
                lookedAfterBy = "owner",
                needs = Array.Empty<object>(),
            };
        var places = new List<string>();
        for (var i = 0; i < 10; i++)
        {
            var made = await _client.PostAsJsonAsync("/api/orders", new { order = Order($"Mill {i}"), by = "Pim" });
            made.EnsureSuccessStatusCode();
            places.Add($"{made.Headers.Location}");
        }
        var answers = await Task.WhenAll(
            Enumerable
                .Range(0, 10)
                .Select(i =>
                    _client.PutAsJsonAsync(
                        places[i],
                        new
                        {
                            order = Order("Lock Cottage"),
                            version = 1,
                            by = "Pim",
                        }
                    )
                )
        );
        answers.Count(a => a.StatusCode == HttpStatusCode.OK).ShouldBe(1);
        answers.Count(a => a.StatusCode == HttpStatusCode.Conflict).ShouldBe(9);
    }

    [Fact]
    public async Task F26_A_full_width_formula_goes_out_as_text()
    {
        (
            await _client.PostAsync(
                "/api/machines/csv?by=Pim",
                new StringContent("tag\nMR-0855\n", Encoding.UTF8, "text/csv")
            )
        ).EnsureSuccessStatusCode();
        await _runs.EnterAsync("MR-0855", "identity.model", "＝1+1");
        var table = await _client.GetStringAsync("/api/machines.csv");
        table.ShouldContain("'＝1+1");
    }

    [Fact]
    public async Task F27_The_shops_own_name_is_on_every_page()
    {
        await using var workshop = new TestWorkshop { Demo = true };
        using var named = workshop.WithWebHostBuilder(b => b.UseSetting("shop", "Lock Lane Repairs"));
        var client = named.CreateClient();
        (await client.GetFromJsonAsync<JsonElement>("/api/health"))
            .GetProperty("shop")
            .GetString()
            .ShouldBe("Lock Lane Repairs");
        client.DefaultRequestHeaders.Accept.ParseAdd("text/html");
        var page = await client.GetStringAsync("/api/machines/MR-0406/handover");
        page.ShouldContain("Lock Lane Repairs");
        page.ShouldNotContain("Millrace");
    }
}
