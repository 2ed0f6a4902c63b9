using System.Text.Json.Nodes;
using FreshBoot.Core.Procedures;

namespace FreshBoot.Core.Catalogue;

/// <summary>Reads the fragments of run sheets, and what in them no hand could follow.</summary>
internal static class ProcedureReader
{
    private static readonly string[] Items =
    [
        "image",
        "recipe",
        "answers",
        "identity",
        "medium",
        "layout",
        "switches",
        "chip",
        "kit",
    ];

    /// <summary>The procedure that an object of a pack describes.</summary>
    public static ProcedureEntry Read(PackNode plain)
    {
        var node = plain with { OfRoute = true };
        var rung = node.Enum<Rung>("rung");
        var steps = Steps(node, "steps", rung, new HashSet<string>(StringComparer.Ordinal));
        var procedure = new ProcedureEntry(node.Id(), node.Text("about"), node.Evidence(), steps)
        {
            When = node.ConditionOrNull("when"),
            IfUnknown = node.Flag("ifUnknown"),
            Cures = node.CureIds("cures"),
            CureKind = node.Has("cureKind") ? node.Enum<Outcome>("cureKind") : null,
            Assumed = node.Flag("assumed"),
            Switch = node.TextOrNull("switch"),
            SwitchTo = node.TextOrNull("switchTo"),
        };
        if (
            procedure.Switch is { } key and not ProcedureEntry.AnySwitch
            && (
                FirmwareSwitches.Find(key) is not { InSettings: true } known
                || (procedure.SwitchTo is { } to && known.Values.All(v => v.Value != to))
            )
        )
            node.Fault(
                "switch",
                $"“{key}”{(procedure.SwitchTo is { } value ? $" to “{value}”" : "")} is no switch in the settings of a firmware; one of: {string.Join(", ", FirmwareSwitches.All.Where(f => f.InSettings).Select(f => f.Key))}"
            );
        node.Pass.Links.Procedure(node, procedure);
        return procedure;
    }

    private static List<StepEntry> Steps(PackNode node, string name, Rung rung, HashSet<string> ids) =>
        [.. node.Each(name).Select(n => Step(n, rung, ids))];

    private static StepEntry Step(PackNode node, Rung rung, HashSet<string> ids)
    {
        var id = node.Text("id");
        if (!ids.Add(id))
            node.Fault("id", $"another step of this procedure is called “{id}”");
        var step = new StepEntry(
            id,
            node.Enum<StepKind>("kind"),
            node.EnumOr("where", StepPlace.Machine),
            node.Text("text")
        )
        {
            Rung = node.EnumOr("rung", rung),
            When = node.ConditionOrNull("when"),
            IfUnknown = node.Flag("ifUnknown"),
            Caution = node.TextOrNull("caution"),
            Expect = node.TextOrNull("expect"),
            Harmless = node.Texts("harmless"),
            Command = node.TextOrNull("command"),
            Wants = node.TextOrNull("wants"),
            Proves = node.TextOrNull("proves"),
            Network = node.Flag("network"),
            Minutes = Times(node),
            Times = node.EnumOr("times", TimesFrom.Step),
            Needs = Needs(node),
            Does = Does(node),
            Uses = Uses(node),
            Options = node.Texts("options"),
            Branches = [.. node.Each("branches").Select(b => Branch(b, rung, ids))],
            Each = node.EnumOr("each", EachSwitch.None),
        };
        CheckForm(node, step);
        return step;
    }

    /// <summary>What a step of its kind has to say, so that a hand knows what to see, to type, to bring or to fear.</summary>
    private static void CheckForm(PackNode node, StepEntry step)
    {
        if (step.Kind is StepKind.Check or StepKind.Type && step.Expect is null)
            node.Fault("", "a step that looks or types says under “expect” what is seen then");
        if (step.Kind == StepKind.Type && step.Command is null)
            node.Fault("", "a step that types has a “command”");
        if (step.Kind == StepKind.Confirm && step.Caution is null)
            node.Fault("", "a step that cannot be undone has a “caution”");
        var picks = step.Kind is StepKind.Choose or StepKind.Trial;
        if (picks && step.Options.Count < 2)
            node.Fault("options", "a step that chooses or tries has two “options” at least");
        if (!picks && step.Options.Count > 0)
            node.Fault("options", "only a step that chooses or tries has “options”");
        if (step.Kind == StepKind.Measure && step.Wants is null)
            node.Fault("", "a step that measures says under “wants” which fact");
        if (
            step.Wants is { } wants
            && wants is not ("probe" or ProcedureEntry.AssumedFact)
            && Dossiers.FactRegistry.Find(wants) is null
        )
            node.Fault("wants", $"there is no fact key “{wants}”");
        foreach (var (name, text) in Texts(step))
        foreach (var unknown in Placeholders.In(text).Where(p => !Placeholders.All.ContainsKey(p)))
            node.Fault(name, $"there is no placeholder “{{{unknown}}}”");
        var seen = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        foreach (var branch in step.Branches.Where(b => !seen.Add(b.When)))
            node.Fault("branches", $"“{branch.When}” stands twice: the second is never reached");
    }

    private static IEnumerable<(string Name, string Text)> Texts(StepEntry step)
    {
        yield return ("text", step.Text);
        yield return ("caution", step.Caution ?? "");
        yield return ("expect", step.Expect ?? "");
        yield return ("command", step.Command ?? "");
        foreach (var text in step.Harmless)
            yield return ("harmless", text);
        foreach (var text in step.Options)
            yield return ("options", text);
        foreach (var branch in step.Branches)
        {
            yield return ("branches", branch.When);
            yield return ("branches", branch.Stop ?? "");
        }
    }

    private static BranchEntry Branch(PackNode node, Rung rung, HashSet<string> ids)
    {
        var branch = new BranchEntry(node.Text("when"), node.TextOrNull("stop"), Steps(node, "then", rung, ids));
        if (branch.Stop is null == (branch.Then.Count == 0))
            node.Fault("", "a branch either has steps under “then”, or says under “stop” why the run ends there");
        return branch;
    }

    private static StepTimes Times(PackNode node)
    {
        if (node.Maybe("minutes") is not { } minutes)
            return new StepTimes(0, 1, 0);
        var usual = minutes.Number("usual");
        var times = new StepTimes(minutes.NumberOrNull("shortest") ?? 0, usual, minutes.NumberOrNull("worry") ?? 0);
        if (times.Shortest > usual || (times.Worry > 0 && usual > times.Worry))
            minutes.Fault("", "the shortest time is longer than the usual one, or that longer than the time to worry");
        return times;
    }

    private static Dictionary<string, IReadOnlyList<string>> Needs(PackNode node)
    {
        var needs = new Dictionary<string, IReadOnlyList<string>>(StringComparer.Ordinal);
        foreach (var (key, value) in node.Members("needs"))
            needs[key] = value is JsonArray several
                ? [.. several.Select(v => v!.GetValue<string>())]
                : [value.GetValue<string>()];
        foreach (var (key, values) in needs)
            CheckWorld(node, $"needs/{key}", key, values);
        return needs;
    }

    private static Dictionary<string, string> Does(PackNode node)
    {
        var does = node.Members("does")
            .ToDictionary(m => m.Name, m => m.Value.GetValue<string>(), StringComparer.Ordinal);
        foreach (var (key, value) in does)
            CheckWorld(node, $"does/{key}", key, [value]);
        return does;
    }

    private static void CheckWorld(PackNode node, string below, string key, IReadOnlyList<string> values)
    {
        if (World.Find(key) is not { } known)
            node.Fault(
                below,
                $"the small world has no “{key}”; it has {Numbers.Join(World.Keys.Select(k => k.Key), "and")}"
            );
        else
            foreach (var value in values.Where(v => !known.Values.Contains(v)))
                node.Fault(below, $"“{value}” is no value of {key}; one of: {string.Join(", ", known.Values)}");
    }

    private static string[] Uses(PackNode node)
    {
        var uses = node.Texts("uses");
        foreach (var use in uses.Where(u => !Items.Contains(u)))
            node.Fault("uses", $"there is no kind of work item “{use}”; one of: {string.Join(", ", Items)}");
        return uses;
    }

    /// <summary>A need that no machine comes with and no step brings about keeps its step from every sheet.</summary>
    public static void CheckNeeds(IReadOnlyList<(PackNode Node, ProcedureEntry Procedure)> all)
    {
        var brought = all.SelectMany(p => Every(p.Procedure.Steps))
            .SelectMany(s => s.Does)
            .Select(d => (d.Key, d.Value))
            .ToHashSet();
        foreach (var (node, procedure) in all)
        foreach (var step in Every(procedure.Steps))
        foreach (var (key, values) in step.Needs)
            if (
                World.Find(key) is { } known
                && !values.Any(v => brought.Contains((key, v)) || known.Values.Take(known.AtStart).Contains(v))
            )
                node.Fault(
                    "steps",
                    $"the step “{step.Id}” needs {key} to be {Numbers.Join(values, "or")}, and no step does that"
                );
    }

    private static IEnumerable<StepEntry> Every(IEnumerable<StepEntry> steps) =>
        steps.SelectMany(s => Every(s.Branches.SelectMany(b => b.Then)).Prepend(s));
}
