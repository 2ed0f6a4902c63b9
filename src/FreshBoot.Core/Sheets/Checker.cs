using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Conditions;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Projection;

namespace FreshBoot.Core.Sheets;

/// <summary>A fault of a sheet: what a hand that follows it would run into.</summary>
/// <param name="Rule">The rule of docs/runs.md that it breaks.</param>
/// <param name="Step">The step where it shows.</param>
/// <param name="Says">What happens there.</param>
public sealed record SheetFault(string Rule, string Step, string Says);

/// <summary>How a sheet can end.</summary>
/// <param name="After">The last step done.</param>
/// <param name="Stopped">Why it stops there; null where it ends as planned.</param>
/// <param name="Starts">Whether the machine starts something then.</param>
/// <param name="World">The small world then.</param>
public sealed record SheetEnd(string After, string? Stopped, bool Starts, IReadOnlyDictionary<string, string> World);

/// <summary>
/// Walks a sheet along every branch, from the machine as it is to every end, and holds what no procedure may break. It shares
/// nothing with the composer but the words of the small world: neither is right because the other says so.
/// </summary>
public static class Checker
{
    /// <summary>The faults of a sheet, and its ends.</summary>
    /// <param name="steps">The steps, those of branches among them.</param>
    /// <param name="start">The small world before the first.</param>
    /// <param name="wanted">What the end has to be.</param>
    public static (IReadOnlyList<SheetFault> Faults, IReadOnlyList<SheetEnd> Ends) Check(
        IReadOnlyList<Step> steps,
        IReadOnlyDictionary<string, string> start,
        SheetGoal wanted
    )
    {
        var walk = new Walk(steps, start, wanted);
        walk.From(0, new State(MachineAt.Before(wanted.Facts, wanted.System, start), ""));
        return ([.. walk.Faults.Distinct()], [.. walk.Ends.DistinctBy(e => (e.After, e.Stopped))]);
    }

    private sealed record State(MachineAt Machine, string Last)
    {
        public IReadOnlyDictionary<string, string> World => Machine.World;

        public string this[string key] => World[key];

        public bool Is(string key, params string[] values) => values.Contains(World[key]);
    }

    private sealed class Walk(IReadOnlyList<Step> steps, IReadOnlyDictionary<string, string> start, SheetGoal goal)
    {
        private readonly HashSet<string> _seen = new(StringComparer.Ordinal);
        private readonly Step[] _main = [.. steps.Where(s => s.On is null)];
        private readonly Dictionary<string, Step> _byId = steps.ToDictionary(s => s.Id, StringComparer.Ordinal);

        public List<SheetFault> Faults { get; } = [];

        public List<SheetEnd> Ends { get; } = [];

        /// <summary>Along the main way from a step on.</summary>
        public void From(int at, State state)
        {
            if (
                !_seen.Add(
                    $"{at} {string.Join(' ', state.World.OrderBy(w => w.Key, StringComparer.Ordinal).Select(w => w.Value))} {string.Join(' ', state.Machine.Left.OrderBy(f => f.Key, StringComparer.Ordinal).Select(f => $"{f.Key}={f.Value}"))}"
                )
            )
                return;
            if (at == _main.Length)
            {
                End(state, null);
                return;
            }
            Step(_main[at], state, after => From(at + 1, after));
        }

        private void Step(Step step, State state, Action<State> then)
        {
            Needs(step, state);
            foreach (var branch in step.Branches)
                if (branch.Stop is { } stop)
                    End(state with { Last = step.Id }, stop);
                else
                    Along(branch.Then, 0, state with { Last = step.Id }, then);
            then(Do(step, state));
        }

        private void Along(IReadOnlyList<string> ids, int at, State state, Action<State> then)
        {
            if (at == ids.Count)
                then(state);
            else
                Step(_byId[ids[at]], state, after => Along(ids, at + 1, after, then));
        }

        private void Needs(Step step, State state)
        {
            foreach (var (key, values) in step.Needs)
                if (!values.Contains(state[key]))
                    Fault("needs", step, $"needs {key} {Numbers.Join(values, "or")}, and it is {state[key]}");
        }

        private State Do(Step step, State before)
        {
            var after = new State(before.Machine.Then(step), step.Id);
            Starts(step, before, after);
            Gates(step, before, after);
            Places(step, before);
            Keys(step, before);
            Writes(step, before, after);
            Hands(step, before, after);
            return after;
        }

        /// <summary>An installer is started, or an upgrade begun, on a machine that it lets in, under the identity that it is to see.</summary>
        private void Gates(Step step, State before, State after)
        {
            if (!Turns(step, before, "running", "installer") || before.Is("running", "live"))
                return;
            foreach (var gate in goal.Gates.Where(g => g.Needs.Holds(after.Machine) == false))
                Fault(
                    "gate",
                    step,
                    $"starts the installer, which asks for {gate.Says}: that comes later, or not at all"
                );
            if (goal.Spoofs && !after.Is("identity", "given"))
                Fault("gate", step, "starts the installer under its own identity, which that one does not know");
        }

        /// <summary>What is done in a system is done while that one runs.</summary>
        private void Places(Step step, State before)
        {
            var now = step.Does.GetValueOrDefault("running") ?? before["running"];
            switch (step.Where)
            {
                case StepPlace.Outgoing
                    when now is not ("outgoing" or "installer" or "off") && before["running"] != "outgoing":
                case StepPlace.Outgoing when before["running"] == "off" && now == "off":
                    Fault("outgoing", step, "works in the old system, which does not run");
                    break;
                case StepPlace.System
                    when now is not ("system" or "first") && before["running"] is not ("system" or "first"):
                    Fault("place", step, $"works in the new system, and {Runs(before["running"])}");
                    break;
                case StepPlace.Installer
                    when now is not ("installer" or "live") && before["running"] is not ("installer" or "live"):
                    Fault("place", step, $"works in the installer, and {Runs(before["running"])}");
                    break;
                case StepPlace.Programmer when now != "programmer" && before["running"] != "programmer":
                    Fault("place", step, $"works at the unlocked command line, and {Runs(before["running"])}");
                    break;
            }
            if (step.Does.GetValueOrDefault("running") == "setup" && goal.Menus(before.Machine).WhyNone is { } none)
                Fault("settings", step, $"opens settings. {none}");
        }

        private static string Runs(string running) =>
            running == "off" ? "the machine is off" : $"what runs is: {running}";

        /// <summary>The key that a step names is that of the firmware which is on the chip by then.</summary>
        private void Keys(Step step, State before)
        {
            var now = goal.Menus(before.Machine);
            foreach (var phrase in goal.Phrases)
                if (
                    step.Text.Contains(phrase, StringComparison.Ordinal)
                    && phrase != now.BootMenu
                    && phrase != now.Setup
                    && phrase != now.SetupFromSystem
                )
                    Fault(
                        "keys",
                        step,
                        $"names a key of another firmware than the one that is on it by then: “{phrase}”"
                    );
        }

        private static bool Turns(Step step, State before, string key, string value) =>
            step.Does.TryGetValue(key, out var to) && to == value && before[key] != value;

        /// <summary>Each start has something to start from, in the mode, with the signature, that the firmware then accepts.</summary>
        private void Starts(Step step, State before, State after)
        {
            if (!step.Does.TryGetValue("running", out var runs) || runs == before["running"])
                return;
            if (runs is "installer" or "live" && !before.Is("running", "outgoing", "live"))
            {
                if (!after.Is("mediumAt", "port"))
                    Fault("start", step, "starts from a medium that is in no port");
                if (!after.Is("medium", "right"))
                    Fault("start", step, "starts from a medium that was not read back");
                if (
                    goal.ByStick
                    && (
                        after.Is("usbStart", "forbidden")
                        || (after.Is("usbStart", "unknown") && goal.Menus(after.Machine).HasSettings)
                    )
                )
                    Fault(
                        "start",
                        step,
                        after.Is("usbStart", "unknown")
                            ? "starts from a stick, and nobody has looked whether the firmware allows it"
                            : "starts from a stick, which the firmware does not allow"
                    );
                if (goal.Loader != LoaderSignatures.All && after.Is("secureBoot", "on"))
                    Fault("secureBoot", step, "meets Secure Boot with a loader that nobody signed");
                if (after.Is("firmware", "written", "broken"))
                    Fault("start", step, "starts with firmware that was not checked after it was written");
            }
            if (runs is "first" or "system")
            {
                if (!after.Is("installed", "yes", "copying"))
                    Fault("start", step, "starts a system that was not installed");
                if (!(after.Is("loader", "drive") || (after.Is("loader", "medium") && after.Is("mediumAt", "port"))))
                    Fault("start", step, "starts from a drive without a loader, and no medium with one is in");
                if (goal.Loader == LoaderSignatures.None && after.Is("secureBoot", "on"))
                    Fault("secureBoot", step, "meets Secure Boot with a loader that nobody signed");
            }
            if (runs == "outgoing" && !(after.Is("outgoing", "starts") && after.Is("drive", "owner")))
                Fault("start", step, "starts the old system, which is not there any more");
            if (after.Is("case", "open") && runs != "off")
                Fault("hands", step, "starts it with the casing open");
        }

        /// <summary>Nothing that is needed is lost, and nothing is irreversible before leave, data and backup.</summary>
        private void Writes(Step step, State before, State after)
        {
            if (step.Does.Count > 0 && before.Is("leave", "open") && !step.Does.ContainsKey("leave"))
                Fault("leave", step, "changes something before anybody has said yes");
            // A drive that comes out and is kept is not erased.
            var erases =
                before.Is("drive", "owner")
                && !step.Does.ContainsKey("oldDrive")
                && (
                    Turns(step, before, "drive", "blank")
                    || Turns(step, before, "drive", "divided")
                    || Turns(step, before, "drive", "system")
                    || Turns(step, before, "drive", "kept")
                );
            if ((erases || Turns(step, before, "firmware", "written")) && !before.Is("data", "settled"))
                Fault("data", step, "takes what is on it before the data is settled");
            if (erases && step.Kind != StepKind.Confirm && !before.Is("outgoing", "none", "gone") && !goal.Keeps)
                Fault("data", step, "takes what is on the drive without the tag being asked for");
            if (erases && !goal.Retires && !goal.Keeps && before.Is("others", "in"))
                Fault("drives", step, "erases with other drives plugged in");
            foreach (var (key, says) in Sealing)
                if (
                    step.Does.TryGetValue(key, out var to)
                    && to != before[key]
                    && before.Is("drive", "owner")
                    && !before.Is("encryption", "none", "suspended")
                    && (goal.Keeps || !before.Is("encryption", "keySeen"))
                )
                    Fault(
                        "encryption",
                        step,
                        before.Is("encryption", "keySeen")
                            ? $"changes {says} while the drive that stays is encrypted and not suspended"
                            : $"changes {says} under an encrypted drive whose key nobody has seen"
                    );
            if (Turns(step, before, "mediumAt", "port") && before.Is("medium", "none") && !after.Is("medium", "right"))
                Fault("medium", step, "plugs a medium in that is not made yet");
            if (step.Does.GetValueOrDefault("medium") == "written" && before.Is("identity", "given"))
                Fault("medium", step, "writes the medium again after the kit on it was compared with its list");
            if (Turns(step, before, "firmware", "written"))
            {
                if (!before.Is("firmwareCopy", "kept"))
                    Fault("firmware", step, "writes the chip without a copy kept elsewhere");
                if (!before.Is("power", "mains"))
                    Fault("firmware", step, "writes the chip without mains");
                if (before.Is("writeProtect", "on"))
                    Fault("firmware", step, "writes a chip that is protected");
            }
            if (Turns(step, before, "scripts", "open") && !before.Is("running", "outgoing"))
                Fault("outgoing", step, "works in the old system, which does not run");
            if (Turns(step, before, "medium", "written") && before.Is("loader", "medium"))
                Fault("medium", step, "writes over the medium that the loader lies on");
            if (Turns(step, before, "mediumAt", "out") && before.Is("loader", "medium"))
                Fault("medium", step, "takes the medium out that the loader lies on");
        }

        /// <summary>What a drive's keys are sealed with: whatever changes one of these can lock it.</summary>
        private static readonly (string Key, string Says)[] Sealing =
        [
            ("firmware", "the firmware"),
            ("tpm", "the TPM"),
            ("secureBoot", "Secure Boot"),
            ("bootMode", "the start mode"),
        ];

        /// <summary>Casing, power, and parts that nobody has tried.</summary>
        private void Hands(Step step, State before, State after)
        {
            if (Turns(step, before, "case", "open") && !before.Is("power", "off"))
                Fault("hands", step, "opens the casing with the power on");
            if (step.Does.GetValueOrDefault("power") == "mains" && after.Is("battery", "bad"))
                Fault("hands", step, "charges a battery that swells");
            if (after.Is("untried", "2"))
                Fault("untried", step, "puts a second untried part in before the first was started with");
            if (Turns(step, before, "power", "off") && before.Is("installed", "copying"))
                Fault("hands", step, "takes the power away while it installs");
        }

        private void End(State state, string? stopped)
        {
            var starts =
                state.Is("installed", "yes") && state.Is("loader", "drive")
                || state.Is("outgoing", "starts")
                    && state.Is("drive", "owner")
                    && state.Is("firmware", "maker", "updated");
            Ends.Add(new SheetEnd(state.Last, stopped, starts, state.World));
            if (stopped is not null)
                return;
            foreach (var (key, relaxed, says) in World.Relaxations)
                if (state[key] == relaxed && start[key] != relaxed && !goal.Stays(key))
                    Fault("relaxation", Last(state), $"ends while {says}");
            if (goal.Retires)
            {
                if (!state.Is("state", "retired"))
                    Fault("end", Last(state), "ends without the machine being retired");
                return;
            }
            if (!starts)
                Fault("end", Last(state), "ends with a machine that starts nothing");
            if (!state.Is("proof", "done"))
                Fault("end", Last(state), "ends without the second probe");
            if (goal.NewOwner && !state.Is("clean", "done"))
                Fault("end", Last(state), "ends with something of the shop or the former user on it");
            if (state.Is("files", "saved"))
                Fault("end", Last(state), "ends without the files that were saved for its owner");
            if (!state.Is("state", "ready"))
                Fault("end", Last(state), "ends before it is ready for its owner");
        }

        private Step Last(State state) => _byId.GetValueOrDefault(state.Last) ?? _main[^1];

        private void Fault(string rule, Step step, string says) => Faults.Add(new SheetFault(rule, step.Id, says));
    }
}

/// <summary>A gate that an installer checks and that no patch lifts.</summary>
/// <param name="Needs">What it asks of the machine.</param>
/// <param name="Says">The same in words.</param>
public sealed record GateAsked(Condition Needs, string Says);

/// <summary>What the checker has to know of a route beside its steps.</summary>
/// <param name="Retires">Whether the machine is taken apart.</param>
/// <param name="NewOwner">Whether it changes its owner.</param>
/// <param name="ByStick">Whether the installer starts from a stick.</param>
/// <param name="Loader">Which of its loaders Secure Boot lets start.</param>
/// <param name="Keeps">Whether what is on the drive stays.</param>
/// <param name="Facts">The machine as it is today.</param>
/// <param name="System">The system that is installed; null for none.</param>
/// <param name="Catalogue">Makers and payloads, for the keys of their firmware.</param>
public sealed record SheetGoal(
    bool Retires,
    bool NewOwner,
    bool ByStick,
    LoaderSignatures Loader,
    bool Keeps,
    IFacts Facts,
    SystemEntry? System,
    ShopCatalogue Catalogue
)
{
    /// <summary>The gates that the installer checks on this way.</summary>
    public IReadOnlyList<GateAsked> Gates { get; init; } = [];

    /// <summary>Whether the machine takes another identity.</summary>
    public bool Spoofs { get; init; }

    /// <summary>How the firmware of a machine is talked to.</summary>
    public FirmwareMenus Menus(IFacts machine) => Catalogue.Menus(machine);

    /// <summary>The ways into menus and settings that makers and payloads have, as steps name them.</summary>
    public IReadOnlyList<string> Phrases { get; } =
    [
        .. Catalogue
            .Makers.SelectMany(m => new[] { m.BootMenu, m.Setup, m.SetupFromSystem })
            .Concat(Catalogue.Payloads.SelectMany(p => new[] { p.BootMenu, p.Setup }))
            .OfType<string>()
            .Distinct(StringComparer.Ordinal),
    ];

    /// <summary>Whether a relaxation has to stay, since what is installed does not start without it.</summary>
    public bool Stays(string key) => key == "secureBoot" && Loader == LoaderSignatures.None;
}
