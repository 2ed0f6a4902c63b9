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

    /// <summary>Most people that one plan is made for.</summary>
    private const int MostPeople = 20;

    /// <summary>Most of each thing.</summary>
    private const int MostOfAThing = 200;

    /// <summary>Whoever told something of a machine so lately has it in hand.</summary>
    private static readonly TimeSpan InHand = TimeSpan.FromHours(2);

    private static readonly DayOfWeek[] WorkingDays =
    [
        DayOfWeek.Monday,
        DayOfWeek.Tuesday,
        DayOfWeek.Wednesday,
        DayOfWeek.Thursday,
        DayOfWeek.Friday,
    ];

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
        return new PlansView(
            job?.Id,
            plan is null ? null : plan with { Gives = await AsTheyStandAsync(plan.Gives, latest, stop) },
            plan is null ? [] : [.. plan.People.Select(p => Now(plan, p.Name, latest))],
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
                            WorkingDays
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
        var giving = GiveSolver.Solve(GiveQuestion(matter, before), TimeSpan.FromSeconds(wish.Seconds * 0.3), stop);
        stop.ThrowIfCancellationRequested();
        var local = clock.GetLocalNow();
        // The plan begins with the next whole minute.
        var start = local.AddTicks(-(local.Ticks % TimeSpan.TicksPerMinute)).AddMinutes(1);
        var making = new Making(wish, matter, giving, before, start, await ContextAsync(stop));
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
            shop.Catalogue.Prices.FirstOrDefault(p => p.Per == Core.Catalogue.PricePer.Hour)?.Money ?? 0,
            matter
                .Open.Where(o => o.Order is not null)
                .ToDictionary(o => o.Run.Tag, o => o.Order!.Id, StringComparer.Ordinal),
            was
        );
    }

    /// <summary>What somebody does now by the plan: the first of their tasks that is not over and can be begun; else what they wait for.</summary>
    private static DoNow Now(PlanSheet plan, string person, IReadOnlyDictionary<string, StoredRun> latest)
    {
        var mine = plan.Tasks.Where(t => t.Person == person).OrderBy(t => t.Start).Where(t => !IsOver(t)).ToArray();
        if (mine.FirstOrDefault(Can) is { } now)
            return Tell(now, null, null);
        if (mine.FirstOrDefault() is not { } next)
            return new DoNow(person, null, null, 0, null, null, false);
        var wait = latest.GetValueOrDefault(next.Tag)?.State.Waiting;
        return Tell(
            next,
            wait?.UsualAt ?? next.Start,
            wait is null ? "Somebody else is at this machine before." : "The machine waits by itself."
        );

        bool IsOver(PlanTask task) =>
            latest.GetValueOrDefault(task.Tag) is { } run
            && (
                !run.State.IsOpen
                || run.State.Over.ContainsKey(task.Steps[^1])
                || (task.Step == BenchWork.FaultStep && !run.State.Stopped)
            );
        bool Can(PlanTask task) =>
            plan.Tasks.Where(t => t.Tag == task.Tag && t.Hands && t.Start < task.Start).All(IsOver)
            && latest.GetValueOrDefault(task.Tag)?.State is null or { Waiting: null, Paused: null };
        DoNow Tell(PlanTask task, DateTimeOffset? from, string? why) =>
            new(
                person,
                task.Tag,
                task.Says,
                (int)(task.End - task.Start).TotalMinutes,
                from,
                why,
                latest.GetValueOrDefault(task.Tag) is { State.IsOpen: true }
            );
    }

    /// <summary>One plan in the making.</summary>
    private sealed class Making(
        BenchPlanIn wish,
        PlanMatter matter,
        Solved<IReadOnlyList<Gift>> giving,
        PlanSheet? before,
        DateTimeOffset start,
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
            var people = People(load);
            BenchChain[] chains =
            [
                .. matter
                    .Open.Select(o => Chain(Begun(o.Run, o.Order, people), people))
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
        private BenchChain Chain(MachineToPlan machine, BenchPerson[] people)
        {
            var chain = BenchWork.Of(machine, matter.Times);
            return
                chain is { With: { } with }
                && people.Single(p => p.Name == with) is var person
                && (
                    !person.Can(chain.Tasks[0])
                    || !person.Shifts.Any(s => s.From <= 0 && chain.Tasks[0].Minutes <= s.To)
                )
                ? BenchWork.Of(machine with { With = null }, matter.Times)
                : chain;
        }

        private MachineToPlan Begun(StoredRun run, Order? order, BenchPerson[] people)
        {
            // Of the machines that somebody told something of lately, they stand at the last one.
            var last = run.Events.Count > 0 ? run.Events[^1] : null;
            var who = last?.By ?? run.By;
            var at = last?.At ?? run.StartedAt;
            var inHand =
                run.State is { Stopped: false, Paused: null, Waiting: null }
                && start - at < InHand
                && people.Any(p => p.Name == who)
                && !matter.Open.Any(o =>
                    o.Run.Tag != run.Tag && o.Run.Events is [.., var e] && e.By == who && e.At > at
                );
            return new MachineToPlan(
                run.Tag,
                run.Steps,
                run.State,
                Due(order),
                run.State.Waiting is { } wait ? Minute(wait.UsualAt) : 0,
                inHand ? who : null
            );
        }

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
            foreach (var old in before.Tasks.Where(t => tasks.ContainsKey(t.Id) && Minute(t.Start) >= 0))
                known[old.Id] = new Placed(old.Id, old.Person, Minute(old.Start), Minute(old.End));
            return known;
        }

        private BenchPerson[] People(int load)
        {
            var perDay =
                wish.People.Sum(p => (int)(p.To - p.From).TotalMinutes * (p.Days ?? WorkingDays).Distinct().Count())
                / 7;
            // Days enough for three times the work, and a fortnight.
            var days = 14 + 3 * load / Math.Max(1, perDay);
            return
            [
                .. wish.People.Select(p => new BenchPerson(
                    p.Name,
                    [
                        .. Enumerable
                            .Range(0, days)
                            .Select(d => start.Date.AddDays(d))
                            .Where(d => (p.Days ?? WorkingDays).Contains(d.DayOfWeek))
                            .Select(d => new Shift(Math.Max(0, Minute(At(d, p.From))), Minute(At(d, p.To))))
                            .Where(s => s.To > s.From),
                    ],
                    p.Skills ?? []
                )),
            ];
        }

        private DateTimeOffset At(DateTime day, TimeOnly time) => new(day.Add(time.ToTimeSpan()), start.Offset);

        private int Minute(DateTimeOffset at) => (int)Math.Floor((at - start).TotalMinutes);

        /// <summary>An order is due as its day ends.</summary>
        private int? Due(Order? order) =>
            order?.Due is { } due
                ? Math.Max(0, Minute(At(due.ToDateTime(TimeOnly.MinValue).AddDays(1), TimeOnly.MinValue)))
                : null;

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
                        start.AddMinutes(x.Placed.Start),
                        start.AddMinutes(x.Placed.End),
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
                start,
                tasks.Length == 0 ? start : tasks.Max(t => t.End),
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
                [
                    .. units.Select(u => new PlanUnit(
                        u.Tag,
                        u.What,
                        u.Number,
                        start.AddMinutes(u.From),
                        start.AddMinutes(u.To)
                    )),
                ],
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
