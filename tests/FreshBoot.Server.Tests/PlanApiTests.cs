using System.Net;
using System.Net.Http.Json;
using System.Text.Json;

namespace FreshBoot.Server.Tests;

/// <summary>The demo's machines planned for its four orders and two people, and again after a stop.</summary>
public sealed class PlanApiTests(DemoWorkshop demo) : IClassFixture<DemoWorkshop>
{
    private readonly HttpClient _client = demo.Client;

    private static object[] People(params object[] skillsOfSecond) =>
        [
            new
            {
                name = "Pim Achterberg",
                from = "09:00:00",
                to = "17:00:00",
                skills = new[] { "casing", "programmer" },
            },
            new
            {
                name = "Odalys Brandt",
                from = "10:00:00",
                to = "18:00:00",
                skills = skillsOfSecond,
            },
        ];

    private async Task<JsonElement> PlanAsync(object wish)
    {
        var begun = await _client.PostAsJsonAsync("/api/plans", wish);
        begun.StatusCode.ShouldBe(HttpStatusCode.Accepted);
        var id = (await begun.JsonAsync()).GetProperty("id").GetInt32();
        while (true)
        {
            var job = await _client.GetFromJsonAsync<JsonElement>($"/api/jobs/{id}");
            if (job.GetProperty("state").GetString() is not ("queued" or "running"))
                return job;
            await Task.Delay(100);
        }
    }

    private static JsonElement PlanOf(JsonElement job) => job.GetProperty("result").GetProperty("plan");

    [Fact]
    public async Task Machines_go_to_orders_and_steps_to_people_within_two_per_cent_and_a_stop_moves_little()
    {
        // It may look for long, and stops as soon as it is good enough: how fast this machine is does not matter.
        var plan = PlanOf(
            await PlanAsync(
                new
                {
                    people = People("casing"),
                    seconds = 600,
                    enough = 0.02,
                    anew = true,
                }
            )
        );
        plan.GetProperty("gap").GetDouble().ShouldBeLessThanOrEqualTo(0.02);
        plan.GetProperty("giving").GetProperty("gap").GetDouble().ShouldBeLessThanOrEqualTo(0.02);
        plan.GetProperty("objective").GetInt32().ShouldBeLessThanOrEqualTo(plan.GetProperty("listRule").GetInt32());
        Holds(plan);

        var gives = plan.GetProperty("gives").EnumerateArray().ToArray();
        gives.Select(g => g.GetProperty("tag").GetString()).ShouldBeUnique();
        foreach (var order in (await _client.GetFromJsonAsync<JsonElement>("/api/orders")).EnumerateArray())
        {
            var id = order.GetProperty("order").GetProperty("id").GetString();
            var wants =
                order.GetProperty("order").GetProperty("machines").GetInt32() - order.GetProperty("ready").GetInt32();
            var gets = gives.Count(g =>
                g.GetProperty("order").GetString() == id && !g.GetProperty("reserve").GetBoolean()
            );
            var lacks = plan.GetProperty("unfilled")
                .EnumerateArray()
                .Where(u => u.GetProperty("order").GetString() == id)
                .Sum(u => u.GetProperty("missing").GetInt32());
            (gets + lacks).ShouldBe(wants);
        }
        // A failing drive and a swollen battery are nobody's order, and say why.
        foreach (var tag in new[] { "MR-0420", "MR-0428" })
            plan.GetProperty("left")
                .EnumerateArray()
                .Single(l => l.GetProperty("tag").GetString() == tag)
                .GetProperty("why")
                .GetString()
                .ShouldNotBeNullOrEmpty();

        // What everybody does now is theirs by the plan.
        var view = await _client.GetFromJsonAsync<JsonElement>("/api/plans");
        foreach (var now in view.GetProperty("now").EnumerateArray())
            Tasks(plan)
                .ShouldContain(t =>
                    t.GetProperty("person").GetString() == now.GetProperty("person").GetString()
                    && t.GetProperty("tag").GetString() == now.GetProperty("tag").GetString()
                );

        // One of them stops. Planned again, what is under way stays, and most of the rest.
        var summary = (await _client.GetFromJsonAsync<JsonElement>("/api/machines?find=MR-0409"))[0];
        var run = await _client.GetFromJsonAsync<JsonElement>(
            $"/api/runs/{summary.GetProperty("run").GetProperty("id").GetString()}"
        );
        var current = run.GetProperty("state").GetProperty("current").GetInt32();
        var stopped = await new RunDriver(_client).SayAsync(
            run,
            "stopped",
            run.GetProperty("steps")[current].GetProperty("id").GetString()!,
            new { text = "A black screen" }
        );
        stopped.IsSuccessStatusCode.ShouldBeTrue(await stopped.Content.ReadAsStringAsync());
        var again = PlanOf(await PlanAsync(new { people = People("casing"), seconds = 8 }));
        Holds(again);
        Tasks(again).ShouldContain(t => t.GetProperty("id").GetString() == "MR-0409/fault");
        var compared = again.GetProperty("compared").GetInt32();
        compared.ShouldBeGreaterThan(50);
        again.GetProperty("moved").GetInt32().ShouldBeLessThan(compared / 2);
        again.GetProperty("moved").GetInt32().ShouldBe(Tasks(again).Count(t => t.GetProperty("moved").GetBoolean()));
        foreach (
            var task in Tasks(again)
                .Where(t => t.GetProperty("inHand").GetBoolean() && t.GetProperty("hands").GetBoolean())
        )
            Tasks(plan)
                .Single(t => t.GetProperty("id").GetString() == task.GetProperty("id").GetString())
                .GetProperty("person")
                .GetString()
                .ShouldBe(task.GetProperty("person").GetString());
    }

    [Fact]
    public async Task A_cancelled_plan_leaves_the_best_that_was_found()
    {
        var begun = await (
            await _client.PostAsJsonAsync(
                "/api/plans",
                new
                {
                    people = People("casing"),
                    seconds = 600,
                    anew = true,
                }
            )
        ).JsonAsync();
        var id = begun.GetProperty("id").GetInt32();
        while (
            (await _client.GetFromJsonAsync<JsonElement>($"/api/jobs/{id}")).GetProperty("result").ValueKind
            == JsonValueKind.Null
        )
            await Task.Delay(50);
        var cancelled = await (await _client.DeleteAsync($"/api/jobs/{id}")).JsonAsync();
        cancelled.GetProperty("state").GetString().ShouldBe("cancelled");
        Holds(PlanOf(cancelled));
    }

    [Theory]
    [InlineData("""{"people":[]}""", "people")]
    [InlineData("""{"people":[{"name":"Ada","from":"17:00:00","to":"09:00:00"}]}""", "people/0")]
    [InlineData(
        """{"people":[{"name":"Ada","from":"09:00:00","to":"17:00:00"},{"name":"Ada","from":"09:00:00","to":"17:00:00"}]}""",
        "people/1"
    )]
    [InlineData("""{"people":[{"name":"Ada","from":"09:00:00","to":"17:00:00"}],"seconds":0}""", "seconds")]
    [InlineData("""{"people":[{"name":"Ada","from":"09:00:00","to":"17:00:00"}],"enough":2}""", "enough")]
    [InlineData(
        """{"people":[{"name":"Ada","from":"09:00:00","to":"17:00:00"}],"resources":{"bays":-1,"sticks":1,"drops":1,"programmers":1}}""",
        "resources"
    )]
    public async Task What_cannot_be_meant_is_refused_and_says_where(string body, string where)
    {
        using var content = new StringContent(body, System.Text.Encoding.UTF8, "application/json");
        var answer = await _client.PostAsync("/api/plans", content);
        answer.StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await answer.JsonAsync()).GetProperty("where").GetString().ShouldBe(where);
    }

    [Fact]
    public async Task Where_nobody_can_do_a_step_or_a_thing_is_missing_the_job_says_which()
    {
        async Task<string> Says(object resources, params string[] skills) => (
                await PlanAsync(
                    new
                    {
                        people = new[]
                        {
                            new
                            {
                                name = "Ada",
                                from = "09:00:00",
                                to = "17:00:00",
                                skills,
                            },
                        },
                        resources,
                        seconds = 1,
                        anew = true,
                    }
                )
            ).GetProperty("says").GetString()!;
        (
            await Says(
                new
                {
                    bays = 6,
                    sticks = 4,
                    drops = 3,
                    programmers = 1,
                },
                "programmer"
            )
        ).ShouldContain("Nobody has the skill “casing” for MR-04");
        (
            await Says(
                new
                {
                    bays = 1,
                    sticks = 4,
                    drops = 3,
                    programmers = 1,
                },
                "casing",
                "programmer"
            )
        ).ShouldContain("hold a bay as it is, and there are 1");
        (
            await Says(
                new
                {
                    bays = 6,
                    sticks = 4,
                    drops = 0,
                    programmers = 1,
                },
                "casing",
                "programmer"
            )
        ).ShouldContain("wants a network drop, and there is none");
    }

    private static JsonElement[] Tasks(JsonElement plan) => [.. plan.GetProperty("tasks").EnumerateArray()];

    /// <summary>What anybody can see from outside: nobody and nothing twice at once, hours kept, each machine's tasks in order.</summary>
    private static void Holds(JsonElement plan)
    {
        static DateTimeOffset At(JsonElement of, string name) => of.GetProperty(name).GetDateTimeOffset();
        static void Apart(IEnumerable<JsonElement> spans)
        {
            DateTimeOffset? end = null;
            foreach (var span in spans.OrderBy(s => At(s, "start")))
            {
                if (end is { } before)
                    At(span, "start").ShouldBeGreaterThanOrEqualTo(before);
                end = At(span, "end");
            }
        }

        foreach (var machine in Tasks(plan).GroupBy(t => t.GetProperty("tag").GetString()))
            Apart(machine);
        foreach (
            var person in Tasks(plan)
                .Where(t => t.GetProperty("hands").GetBoolean())
                .GroupBy(t => t.GetProperty("person").GetString())
        )
        {
            Apart(person);
            var (from, to) = person.Key == "Pim Achterberg" ? (9, 17) : (10, 18);
            foreach (var task in person)
            {
                At(task, "start").TimeOfDay.ShouldBeGreaterThanOrEqualTo(TimeSpan.FromHours(from));
                At(task, "end").TimeOfDay.ShouldBeLessThanOrEqualTo(TimeSpan.FromHours(to));
                At(task, "start").DayOfWeek.ShouldNotBeOneOf(DayOfWeek.Saturday, DayOfWeek.Sunday);
            }
        }
        foreach (
            var unit in plan.GetProperty("units")
                .EnumerateArray()
                .GroupBy(u => (u.GetProperty("what").GetString(), u.GetProperty("number").GetInt32()))
        )
            Apart(unit);
    }
}
