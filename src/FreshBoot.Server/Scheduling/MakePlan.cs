using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Media;
using FreshBoot.Core.Scheduling;
using FreshBoot.Data.Jobs;
using FreshBoot.Data.Media;
using FreshBoot.Data.Runs;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Jobs;
using FreshBoot.Workshop.Scheduling;
using Order = FreshBoot.Core.Orders.Order;

namespace FreshBoot.Server.Scheduling;

/// <summary>Plans which machine goes to which order, and who does what when; and says what everybody does now.</summary>
internal sealed class MakePlan(
    GatherPlan gather,
    MachineIndex index,
    MediumStore media,
    JobRunner jobs,
    Shop shop,
    TimeProvider clock
)
{
    /// <summary>Longest time that the solver may look.</summary>
    private const int MostSeconds = 600;

    /// <summary>
    /// So long giving may take at least, however short the plan is looked for: it is through in a fraction of a second, and where
    /// the computer is busy with other things it had better be through too, for the bench is planned from it.
    /// </summary>
    private static readonly TimeSpan LeastForGiving = TimeSpan.FromSeconds(10);

    /// <summary>Most people that one plan is made for.</summary>
    private const int MostPeople = 20;

    /// <summary>Most of each thing.</summary>
    private const int MostOfAThing = 200;

    /// <summary>Begins to plan.</summary>
    public async Task<JobSheet> BeginAsync(BenchPlanIn wish, CancellationToken stop)
    {
        var asked = Checked(wish) with { Resources = wish.Resources ?? await ShopHasAsync(stop) };
        var before = wish.Anew ? null : (await InForceAsync(stop))?.Result?.Plan;
        return await jobs.BeginAsync(
            new JobWish(JobKind.Plan, $"Plan for {Numbers.Join(asked.People.Select(p => p.Name), "and")}", asked.By),
            async (working, cancelled) =>
            {
                var sheet = await DoAsync(asked, before, working, cancelled);
                cancelled.ThrowIfCancellationRequested();
                return ($"All is done on {sheet.Over:ddd d MMM, HH:mm}.", new JobResult(Plan: sheet));
            },
            stop: stop
        );
    }

    /// <summary>What is known of planning.</summary>
    public async Task<PlansView> ViewAsync(CancellationToken stop)
    {
        var job = await InForceAsync(stop);
        var plan = job?.Result?.Plan;
        var latest = await index.LatestRunsAsync(stop);
        PlannedTask[] tasks = [.. plan?.Tasks.Select(t => new PlannedTask(t.Tag, t.Steps, t.Person, t.Start)) ?? []];
        return new PlansView(
            job?.Id,
            plan is null ? null : plan with { Gives = await AsTheyStandAsync(plan.Gives, latest, stop) },
            plan is null ? [] : [.. plan.People.Select(p => Now(plan, tasks, p.Name, latest))],
            plan?.People
                ??
                [
                    .. latest
                        .Values.Where(r => r.State.IsOpen)
                        .Select(r => r.State.With ?? r.By)
                        .Distinct(StringComparer.Ordinal)
                        .Order(StringComparer.Ordinal)
                        .Select(name => new PlanPerson(
                            name,
                            new TimeOnly(9, 0),
                            new TimeOnly(17, 0),
                            [Skill.Casing, Skill.Programmer],
                            Roster.UsualDays
                        )),
                ],
            plan?.Resources ?? await ShopHasAsync(stop)
        );
    }

    /// <summary>What was given, with what has been set aside and begun since.</summary>
    private async Task<IReadOnlyList<PlanGive>> AsTheyStandAsync(
        IReadOnlyList<PlanGive> gives,
        IReadOnlyDictionary<string, StoredRun> latest,
        CancellationToken stop
    )
    {
        var now = await index.DossiersAsync([.. gives.Select(g => g.Tag)], stop);
        return
        [
            .. gives.Select(g =>
                g with
                {
                    Aside =
                        now.GetValueOrDefault(g.Tag)?.Word("order.name") is { } name && name != Order.Nobody
                            ? name
                            : null,
                    Begun = latest.GetValueOrDefault(g.Tag) is { State.GivenUpAt: null },
                }
            ),
        ];
    }

    /// <summary>The latest job that came to a plan: nearly always the last one; while one is made, or after some that failed, one before.</summary>
    private async Task<JobSheet?> InForceAsync(CancellationToken stop)
    {
        foreach (var take in new[] { 1, 2, 50 })
            if (
                (await jobs.ListAsync(JobKind.Plan, null, null, null, take, stop)).FirstOrDefault(j =>
                    j is { State: JobState.Done or JobState.Cancelled, Result.Plan: not null }
                ) is
                { } job
            )
                return job;
        return null;
    }

    /// <summary>What the shop is known to have: the bays that are numbered, the sticks that hold what is written, and a programmer.</summary>
    private async Task<PlanResources> ShopHasAsync(CancellationToken stop)
    {
        var bays = Math.Max(1, (await index.AllAsync(stop)).Max(m => m.Bay) ?? 1);
        return new(
            bays,
            Math.Max(
                1,
                (await media.ListAsync(stop)).Count(m => m.Kind == nameof(MediumKind.Stick) && m.State != "unusable")
            ),
            // One drop for two bays, until somebody says otherwise.
            (bays + 1) / 2,
            1
        );
    }

    private static BenchPlanIn Checked(BenchPlanIn wish)
    {
        Given.Text(wish.By, "by", 60);
        if (wish.Seconds is < 1 or > MostSeconds)
            throw Refuse($"{wish.Seconds} seconds.", "seconds", $"1 to {MostSeconds}.");
        if (wish.Enough is not (>= 0 and <= 1))
            throw Refuse($"{wish.Enough} is no part.", "enough", "0 to 1.");
        if (wish.People.Count is 0 or > MostPeople)
            throw Refuse($"{wish.People.Count} people.", "people", $"1 to {MostPeople}.");
        for (var i = 0; i < wish.People.Count; i++)
        {
            var (person, at) = (wish.People[i], $"people/{i}");
            Given.Text(person.Name, $"{at}/name", 60);
            if (wish.People.Take(i).Any(p => p.Name == person.Name))
                throw Refuse($"{person.Name} stands twice.", at, "Each person once.");
            if (person.From >= person.To)
                throw Refuse($"{person.Name} goes before coming.", at, "“from” earlier than “to”, on the same day.");
            if (person.Days is { Count: 0 })
                throw Refuse($"{person.Name} is there on no day.", at, "Days of the week, or none named at all.");
        }
        if (wish.Resources is { } has)
            foreach (var (what, count) in has.ToCapacity())
                if (count is < 0 or > MostOfAThing)
                    throw Refuse($"{count} of {ListRule.Named(what)}.", "resources", $"0 to {MostOfAThing}.");
        return wish;

        static RefusedException Refuse(string what, string where, string wanted) =>
            new(RefusalKind.Invalid, what, where, wanted);
    }

    private async Task<PlanSheet> DoAsync(
        BenchPlanIn wish,
        PlanSheet? before,
        JobRunner.Working working,
        CancellationToken stop
    )
    {
        working.Progress(0, "Gathering machines, routes and sheets.");
        var matter = await gather.AllAsync(part => working.Progress(part / 2), stop);
        working.Progress(0.5, "Giving machines to orders.");
        var forGiving = TimeSpan.FromSeconds(Math.Max(wish.Seconds * 0.3, LeastForGiving.TotalSeconds));
        var giving = GiveSolver.Solve(GiveQuestion(matter, before), forGiving, stop);
        stop.ThrowIfCancellationRequested();
        var roster = Roster.From(clock.GetUtcNow(), clock.LocalTimeZone);
        var making = new Making(wish, matter, giving, before, roster, await ContextAsync(stop));
        var question = making.Question();
        working.Progress(0.6, "Planning the bench.");
        var solved = BenchSolver.Solve(
            question,
            TimeSpan.FromSeconds(wish.Seconds * 0.7),
            wish.Enough,
            better =>
            {
                var sheet = making.Sheet(question, better);
                working.Progress(
                    0.6,
                    $"Best so far: done on {sheet.Over:ddd d MMM, HH:mm}; at most {sheet.Gap:0.0 %} could be better."
                );
                working.Show(new JobResult(Plan: sheet));
            },
            stop
        );
        return making.Sheet(question, solved);
    }

    private async Task<Making.Context> ContextAsync(CancellationToken stop) =>
        new(
            (await index.AllAsync(stop)).ToDictionary(m => m.Tag, m => m.Bay, StringComparer.Ordinal),
            (await index.DossiersAsync(stop)).ToDictionary(
                d => d.Tag,
                d => $"{d.Dossier.Word("identity.maker")} {d.Dossier.Word("identity.model")}".Trim(),
                StringComparer.Ordinal
            ),
            (await index.WantedAsync(stop)).ToDictionary(
                w => w.Order.Id,
                w => (IReadOnlyList<string>)[.. w.Models.Take(3).Select(m => $"{m.Name}. {m.Text}")],
                StringComparer.Ordinal
            )
        );

    private GiveQuestion GiveQuestion(PlanMatter matter, PlanSheet? before)
    {
        // Set aside is set aside; beyond that the plan before counts.
        var was = matter.Aside.ToDictionary(a => a.Key, a => a.Value, StringComparer.Ordinal);
        foreach (var give in before?.Gives ?? [])
            was.TryAdd(give.Tag, give.Order);
        return new GiveQuestion(
            [.. matter.Orders.Select(o => new GiveOrder(o.Order.Id, o.Wants))],
            [.. matter.Offers.Select(o => o.Offer)],
            matter.Shelf,
            shop.Catalogue.HourMoney,
            matter
                .Open.Where(o => o is { Order: not null, Run.Route.System: not null })
                .ToDictionary(o => o.Run.Tag, o => o.Order!.Id, StringComparer.Ordinal),
            was
        );
    }

    private static DoNow Now(
        PlanSheet plan,
        PlannedTask[] tasks,
        string person,
        IReadOnlyDictionary<string, StoredRun> latest
    )
    {
        if (AtTheBench.Now(person, tasks, tag => latest.GetValueOrDefault(tag)?.State) is not var (task, waits))
            return new DoNow(person, null, null, null, 0, null, null, false);
        var sheet = plan.Tasks.First(t => t.Tag == task.Tag && t.Steps[^1] == task.Steps[^1]);
        var run = latest.GetValueOrDefault(task.Tag);
        return new DoNow(
            person,
            task.Tag,
            plan.Gives.FirstOrDefault(g => g.Tag == task.Tag)?.Route,
            sheet.Says,
            (int)(sheet.End - sheet.Start).TotalMinutes,
            waits == NowWaits.Nothing ? null : run?.State.Waiting?.UsualAt ?? task.Start,
            waits switch
            {
                NowWaits.Nothing => null,
                NowWaits.Machine => "The machine waits by itself.",
                NowWaits.LaidAside => "The machine was laid aside.",
                _ => "Somebody else is at this machine before.",
            },
            run is { State.IsOpen: true }
        );
    }

    /// <summary>One plan in the making.</summary>
    private sealed class Making(
        BenchPlanIn wish,
        PlanMatter matter,
        Solved<IReadOnlyList<Gift>> giving,
        PlanSheet? before,
        Roster roster,
        Making.Context context
    )
    {
        internal sealed record Context(
            IReadOnlyDictionary<string, int?> Bays,
            IReadOnlyDictionary<string, string> Models,
            IReadOnlyDictionary<string, IReadOnlyList<string>> Ask
        );

        public BenchQuestion Question()
        {
            var chosen = giving
                .Answer.Where(g => !g.Reserve)
                .Select(g => (matter.Offers.First(o => o.Offer == g.Offer), OrderOf(g.Offer.Order)))
                .ToArray();
            var load =
                chosen.Sum(c => c.Item1.Steps.Sum(s => s.UsualMinutes))
                + matter.Open.Sum(o => o.Run.Steps.Sum(s => s.UsualMinutes));
            var people = roster.People(
                [
                    .. wish.People.Select(p => new WorkingWeek(
                        p.Name,
                        p.From,
                        p.To,
                        [.. p.Days ?? Roster.UsualDays],
                        [.. p.Skills ?? []]
                    )),
                ],
                load
            );
            var inHand = AtTheBench.InHand(
                matter.Open.Select(o =>
                    o.Run.Events is [.., var e]
                        ? new OpenRun(o.Run.Tag, o.Run.State, e.By, e.At)
                        : new OpenRun(o.Run.Tag, o.Run.State, o.Run.By, o.Run.StartedAt)
                ),
                roster.Start
            );
            BenchChain[] chains =
            [
                .. matter
                    .Open.Select(o => Chain(Begun(o.Run, o.Order, inHand), people))
                    .Concat(
                        chosen.Select(c =>
                            BenchWork.Of(
                                new MachineToPlan(c.Item1.Offer.Tag, c.Item1.Steps, null, Due(c.Item2), 0, null),
                                matter.Times
                            )
                        )
                    )
                    .Where(c => c.Tasks.Count > 0),
            ];
            return new BenchQuestion(people, wish.Resources!.ToCapacity(), chains, Before(chains));
        }

        /// <summary>What is in hand goes on, where whoever has it is there until it is done.</summary>
        private BenchChain Chain(MachineToPlan machine, IReadOnlyList<BenchPerson> people)
        {
            var chain = BenchWork.Of(machine, matter.Times);
            return
                chain is { With: { } with }
                && people.FirstOrDefault(p => p.Name == with) is var person
                && (
                    person?.Can(chain.Tasks[0]) != true
                    || !person.Shifts.Any(s => s.From <= 0 && chain.Tasks[0].Minutes <= s.To)
                )
                ? BenchWork.Of(machine with { With = null }, matter.Times)
                : chain;
        }

        private MachineToPlan Begun(StoredRun run, Order? order, IReadOnlyDictionary<string, string> inHand) =>
            new(
                run.Tag,
                run.Steps,
                run.State,
                Due(order),
                run.State.Waiting is { } wait ? roster.Minute(wait.UsualAt) : 0,
                inHand.GetValueOrDefault(run.Tag)
            );

        private Dictionary<string, Placed> Before(BenchChain[] chains)
        {
            var known = new Dictionary<string, Placed>(StringComparer.Ordinal);
            if (before is null)
                return known;
            var tasks = chains
                .SelectMany(c => c.GoesOn ? c.Tasks.Skip(1) : c.Tasks)
                .Where(t => t.Hands)
                .ToDictionary(t => t.Id, StringComparer.Ordinal);
            // What should have begun by now and has not is late by what happened, not moved by the plan.
            foreach (var old in before.Tasks.Where(t => tasks.ContainsKey(t.Id) && roster.Minute(t.Start) >= 0))
                known[old.Id] = new Placed(old.Id, old.Person, roster.Minute(old.Start), roster.Minute(old.End));
            return known;
        }

        private int? Due(Order? order) => order?.Due is { } due ? roster.Due(due) : null;

        private Order OrderOf(string id) => matter.Orders.First(o => o.Order.Id == id).Order;

        public PlanSheet Sheet(BenchQuestion question, Solved<IReadOnlyList<Placed>> solved)
        {
            var cost = BenchCost.Of(question, solved.Answer);
            var at = solved.Answer.ToDictionary(p => p.Task, StringComparer.Ordinal);
            var units = Units.Of(
                question,
                solved.Answer,
                context
                    .Bays.Where(b => b.Value is not null)
                    .ToDictionary(b => b.Key, b => b.Value!.Value, StringComparer.Ordinal)
            );
            PlanTask[] tasks =
            [
                .. question
                    .Chains.SelectMany(c => c.Tasks.Select(t => (Chain: c, Task: t, Placed: at[t.Id])))
                    .Select(x => new PlanTask(
                        x.Task.Id,
                        x.Chain.Tag,
                        x.Task.Steps[0],
                        x.Task.Steps,
                        x.Task.Says,
                        x.Placed.Person,
                        [
                            .. units
                                .Where(u => u.Tag == x.Chain.Tag && u.From < x.Placed.End && x.Placed.Start < u.To)
                                .Select(u => $"{ListRule.Named(u.What)} {u.Number}"),
                        ],
                        roster.At(x.Placed.Start),
                        roster.At(x.Placed.End),
                        x.Task.Hands,
                        x.Chain.GoesOn && ReferenceEquals(x.Task, x.Chain.Tasks[0]),
                        question.Before.TryGetValue(x.Task.Id, out var was) && BenchCost.HasMoved(was, x.Placed)
                    ))
                    .OrderBy(t => t.Start)
                    .ThenBy(t => t.Tag, StringComparer.Ordinal),
            ];
            return new PlanSheet(
                solved.State,
                solved.Objective,
                solved.Bound,
                solved.Gap,
                solved.ListRule,
                PlanQuality.Of(giving),
                roster.Start,
                tasks.Length == 0 ? roster.Start : tasks.Max(t => t.End),
                cost.Over,
                cost.Late,
                question.Before.Count,
                cost.Moved,
                [
                    .. Gives()
                        .OrderBy(g => g.Order, StringComparer.Ordinal)
                        .ThenBy(g => g.Reserve)
                        .ThenBy(g => g.Tag, StringComparer.Ordinal),
                ],
                tasks,
                [.. units.Select(u => new PlanUnit(u.Tag, u.What, u.Number, roster.At(u.From), roster.At(u.To)))],
                [.. Unfilled()],
                [.. Left()],
                wish.People,
                wish.Resources!,
                wish.Seconds
            );
        }

        private IEnumerable<PlanGive> Gives()
        {
            foreach (var (run, order) in matter.Open.Where(o => o.Order is not null))
                yield return new PlanGive(
                    run.Tag,
                    context.Models.GetValueOrDefault(run.Tag, ""),
                    order!.Id,
                    run.Route.Id,
                    run.Route.System,
                    run.Route.School,
                    false,
                    true,
                    run.Route.Money,
                    run.Route.HandsOnMinutes,
                    run.Route.Fit,
                    1 - run.Route.Risk,
                    order.Name
                );
            foreach (var given in giving.Answer)
            {
                var offered = matter.Offers.First(o => o.Offer == given.Offer);
                yield return new PlanGive(
                    given.Offer.Tag,
                    context.Models.GetValueOrDefault(given.Offer.Tag, ""),
                    given.Offer.Order,
                    given.Offer.Route,
                    offered.Route.System,
                    offered.Route.School,
                    given.Reserve,
                    false,
                    given.Offer.Money,
                    given.Offer.HandsOn,
                    given.Offer.Fit,
                    offered.Finishes,
                    matter.Aside.TryGetValue(given.Offer.Tag, out var aside) ? OrderOf(aside).Name : null
                );
            }
        }

        private IEnumerable<PlanUnfilled> Unfilled()
        {
            foreach (var (order, wants) in matter.Orders)
            {
                var begun = matter.Open.Count(o => o.Order?.Id == order.Id);
                var mine = giving.Answer.Where(g => g.Offer.Order == order.Id).ToArray();
                var missing = wants - begun - mine.Count(g => !g.Reserve);
                var expected = begun + mine.Sum(g => g.Offer.PerMille) / 1000.0;
                if (missing > 0)
                    yield return new PlanUnfilled(
                        order.Id,
                        missing,
                        Math.Round(expected, 2),
                        context.Ask.GetValueOrDefault(order.Id) ?? []
                    );
            }
        }

        private IEnumerable<PlanLeft> Left() =>
            matter
                .Left.Concat(
                    matter
                        .Offers.Select(o => o.Offer.Tag)
                        .Distinct(StringComparer.Ordinal)
                        .Where(t => giving.Answer.All(g => g.Offer.Tag != t))
                        .Select(t => new PlanLeft(t, "Every order that could use it has what it wants, at less."))
                )
                .OrderBy(l => l.Tag, StringComparer.Ordinal);
    }
}
