using FreshBoot.Core.Scheduling;
using FreshBoot.Server.Hosting;
using FreshBoot.Workshop.Scheduling;

namespace FreshBoot.Server.Scheduling;

/// <summary>Somebody who works, and when.</summary>
/// <param name="Name">The name.</param>
/// <param name="From">When the day begins.</param>
/// <param name="To">When it ends.</param>
/// <param name="Skills">What they do beside the usual.</param>
/// <param name="Days">The days of the week, 0 for Sunday; Monday to Friday where none are named.</param>
internal sealed record PlanPerson(
    [property: Line(60)] string Name,
    TimeOnly From,
    TimeOnly To,
    IReadOnlyList<Skill>? Skills = null,
    IReadOnlyList<DayOfWeek>? Days = null
);

/// <summary>How many of each thing the shop has.</summary>
/// <param name="Bays">Bays of the bench.</param>
/// <param name="Sticks">Sticks that can be written.</param>
/// <param name="Drops">Network drops.</param>
/// <param name="Programmers">Chip programmers.</param>
internal sealed record PlanResources(int Bays, int Sticks, int Drops, int Programmers)
{
    public IReadOnlyDictionary<BenchResource, int> ToCapacity() =>
        new Dictionary<BenchResource, int>
        {
            [BenchResource.Bay] = Bays,
            [BenchResource.Stick] = Sticks,
            [BenchResource.Drop] = Drops,
            [BenchResource.Programmer] = Programmers,
        };
}

/// <summary>What is to be planned.</summary>
/// <param name="People">Who works.</param>
/// <param name="Resources">What there is to work with; null for what the shop is known to have.</param>
/// <param name="Seconds">How long the solver may look.</param>
/// <param name="Enough">Where none could be better by more than this part of its cost, 0 to 1, the solver stops looking.</param>
/// <param name="Anew">Whether to plan without a thought for the plan in force, which moves more.</param>
/// <param name="By">Who asks.</param>
internal sealed record BenchPlanIn(
    IReadOnlyList<PlanPerson> People,
    PlanResources? Resources = null,
    int Seconds = 10,
    double Enough = 0,
    bool Anew = false,
    [property: Line(60)] string By = "nobody"
);

/// <summary>How good an answer is.</summary>
/// <param name="Status">How far the solver came.</param>
/// <param name="Objective">What it costs.</param>
/// <param name="Bound">What none can be better than.</param>
/// <param name="Gap">By how much of its cost one could be better at most, 0 to 1.</param>
/// <param name="ListRule">What the plain rule comes to.</param>
internal sealed record PlanQuality(SolvedState Status, int Objective, int Bound, double Gap, int ListRule)
{
    public static PlanQuality Of<T>(Solved<T> solved) =>
        new(solved.State, solved.Objective, solved.Bound, solved.Gap, solved.ListRule);
}

/// <summary>A machine that an order gets.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="Model">Its maker and model.</param>
/// <param name="Order">Id of the order.</param>
/// <param name="Route">Id of the route.</param>
/// <param name="System">The system it gets.</param>
/// <param name="School">The school of the route.</param>
/// <param name="Reserve">Whether it stands by for one that fails.</param>
/// <param name="Begun">Whether it is begun.</param>
/// <param name="Money">What it costs, in hundredth parts of a mark.</param>
/// <param name="HandsOn">Minutes of work.</param>
/// <param name="Fit">How well it suits, 0 to 100.</param>
/// <param name="Finishes">In how many of all walks of the rehearsal it is finished, 0 to 1.</param>
/// <param name="Aside">Name of the order that it is set aside for now; null for none.</param>
internal sealed record PlanGive(
    string Tag,
    string Model,
    string Order,
    string Route,
    string? System,
    School School,
    bool Reserve,
    bool Begun,
    int Money,
    int HandsOn,
    int Fit,
    double Finishes,
    string? Aside
);

/// <summary>A task of the plan.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Tag">The machine.</param>
/// <param name="Step">Its first step.</param>
/// <param name="Steps">All its steps.</param>
/// <param name="Says">What the first step says.</param>
/// <param name="Person">Who does it; null where it takes nobody.</param>
/// <param name="Resources">What the machine holds then: bay 1, stick 2.</param>
/// <param name="Start">When it begins.</param>
/// <param name="End">When it ends.</param>
/// <param name="Hands">Whether it takes a person.</param>
/// <param name="InHand">Whether it is under way as the plan is made.</param>
/// <param name="Moved">Whether it lies elsewhere than in the plan before.</param>
internal sealed record PlanTask(
    string Id,
    string Tag,
    string Step,
    IReadOnlyList<string> Steps,
    string Says,
    string? Person,
    IReadOnlyList<string> Resources,
    DateTimeOffset Start,
    DateTimeOffset End,
    bool Hands,
    bool InHand,
    bool Moved
);

/// <summary>From when to when a machine has a thing of the shop.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="What">What kind of thing.</param>
/// <param name="Number">Which one.</param>
/// <param name="Start">From when.</param>
/// <param name="End">Until when.</param>
internal sealed record PlanUnit(string Tag, BenchResource What, int Number, DateTimeOffset Start, DateTimeOffset End);

/// <summary>An order that lacks machines.</summary>
/// <param name="Order">Its id.</param>
/// <param name="Missing">How many it lacks.</param>
/// <param name="Expected">How many it may expect of those it gets, as the rehearsal sees their chances.</param>
/// <param name="Ask">What to ask donors for.</param>
internal sealed record PlanUnfilled(string Order, int Missing, double Expected, IReadOnlyList<string> Ask);

/// <summary>A machine that the plan gives to nobody.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="Why">Why.</param>
internal sealed record PlanLeft(string Tag, string Why);

/// <summary>A plan.</summary>
/// <param name="Status">How far the solver came with the bench.</param>
/// <param name="Objective">What the bench comes to: its open minutes until all is done, minutes late three times, and five for each task moved.</param>
/// <param name="Bound">What no plan can be better than.</param>
/// <param name="Gap">By how much of its cost one could be better at most, 0 to 1.</param>
/// <param name="ListRule">What the plain rule comes to.</param>
/// <param name="Giving">How good the giving is, in hundredth parts of a mark.</param>
/// <param name="At">When it was made: it begins then.</param>
/// <param name="Over">When all is done.</param>
/// <param name="OpenMinutes">Minutes of open hours until then.</param>
/// <param name="LateMinutes">Minutes by which machines are late.</param>
/// <param name="Compared">Tasks that the plan before had too.</param>
/// <param name="Moved">How many of them lie elsewhere now.</param>
/// <param name="Gives">Which machine for whom.</param>
/// <param name="Tasks">Who does what when.</param>
/// <param name="Units">What each machine has meanwhile.</param>
/// <param name="Unfilled">Orders that lack machines.</param>
/// <param name="Left">Machines that go to nobody.</param>
/// <param name="People">Who works.</param>
/// <param name="Resources">With what.</param>
/// <param name="Seconds">How long the solver might look.</param>
internal sealed record PlanSheet(
    SolvedState Status,
    int Objective,
    int Bound,
    double Gap,
    int ListRule,
    PlanQuality Giving,
    DateTimeOffset At,
    DateTimeOffset Over,
    int OpenMinutes,
    int LateMinutes,
    int Compared,
    int Moved,
    IReadOnlyList<PlanGive> Gives,
    IReadOnlyList<PlanTask> Tasks,
    IReadOnlyList<PlanUnit> Units,
    IReadOnlyList<PlanUnfilled> Unfilled,
    IReadOnlyList<PlanLeft> Left,
    IReadOnlyList<PlanPerson> People,
    PlanResources Resources,
    int Seconds
);

/// <summary>What somebody should do now.</summary>
/// <param name="Person">Who.</param>
/// <param name="Tag">At which machine; null where nothing is left for them.</param>
/// <param name="Route">The route that the plan gives it; null where it has none.</param>
/// <param name="Says">What comes first there.</param>
/// <param name="Minutes">How long it takes.</param>
/// <param name="From">From when; null for now.</param>
/// <param name="Why">What it waits for; null where nothing.</param>
/// <param name="Begun">Whether a run is open on it: else one is begun.</param>
internal sealed record DoNow(
    string Person,
    string? Tag,
    string? Route,
    string? Says,
    int Minutes,
    DateTimeOffset? From,
    string? Why,
    bool Begun
);

/// <summary>What is known of planning: what to fill the form with, the plan in force, and what everybody does now.</summary>
/// <param name="JobId">The job that made the plan in force; null for none.</param>
/// <param name="Plan">The plan in force; null for none.</param>
/// <param name="Now">What everybody does now.</param>
/// <param name="People">Who to plan with: those of the plan in force, else who worked last.</param>
/// <param name="Resources">What the shop has.</param>
internal sealed record PlansView(
    int? JobId,
    PlanSheet? Plan,
    IReadOnlyList<DoNow> Now,
    IReadOnlyList<PlanPerson> People,
    PlanResources Resources
);
