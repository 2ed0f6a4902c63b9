namespace FreshBoot.Core.Procedures;

/// <summary>A text of a step that promises something else than what the step does to the small world, or says nothing of it.</summary>
/// <param name="Step">The step, by its id in its procedure.</param>
/// <param name="Says">What does not fit, in a sentence.</param>
public sealed record WordFault(string Step, string Says);

/// <summary>
/// Holds the text of a step against what it does. A hand does what it reads, and the checker walks what the step declares: where the two
/// differ a sheet passes that leaves another machine than it says.
/// </summary>
public static class StepWords
{
    /// <summary>Phrases that mean one change of the small world.</summary>
    /// <param name="Key">The key.</param>
    /// <param name="Value">The value that the phrases promise.</param>
    /// <param name="Also">Other values that do what they say as well.</param>
    /// <param name="Phrases">As texts say it, in small letters.</param>
    private sealed record Promise(string Key, string Value, string[] Also, params string[] Phrases);

    private static readonly Promise[] Promises =
    [
        new(
            "running",
            "off",
            [],
            "shut it down",
            "shut the machine down",
            "shut {outgoing} down",
            "switch the machine off",
            "switch it off",
            "wait until the light is out"
        ),
        new("power", "off", [], "pull {power}", "pull the adapter", "pull the plug"),
        new("power", "mains", [], "connect {power}", "connect the adapter", "connect power"),
        new("case", "open", [], "{opencase}", "open it once more", "open the lower shell", "out for the shelf"),
        new("case", "closed", [], "{closecase}"),
        new("mediumAt", "port", [], "put {medium} into", "plug {medium}", "lay the disc in"),
        new("mediumAt", "out", [], "take {medium} out", "and take it out"),
        new("medium", "written", [], "begin to write", "onto it on another computer"),
        new("encryption", "suspended", [], "choose to suspend"),
        new("encryption", "on", [], "switch the protection on again", "encryption and switch it on"),
        new("scripts", "open", [], "allow scripts"),
        new("writeProtect", "off", [], "{protectionoff}"),
        new("writeProtect", "on", [], "{protectionon}"),
        new("installed", "copying", [], "begin the installation", "begin the upgrade"),
        new("drive", "divided", ["blank", "kept"], "delete every partition", "by hand, in this order: table"),
        new("loader", "drive", [], "move the loader", "the loader onto the drive", "the loader to the drive"),
    ];

    /// <summary>What starts it: a step that ends with the machine off does not end with one of these.</summary>
    private static readonly string[] Starts =
    [
        "let it start",
        "switch it on",
        "switch on",
        "start it",
        "restart it",
        "start again",
        "starts by itself",
    ];

    private static readonly string[] Stops =
    [
        .. Promises[0].Phrases,
        "switch off again",
        "machine off",
        "hold the power button",
        "off and on",
    ];

    /// <summary>The faults of a procedure's texts; none where every promise is kept and every deed is said.</summary>
    public static IReadOnlyList<WordFault> Faults(ProcedureEntry procedure) =>
        [.. procedure.Steps.SelectMany(Every).SelectMany(Faults)];

    private static IEnumerable<StepEntry> Every(StepEntry step) =>
        step.Branches.SelectMany(b => b.Then).SelectMany(Every).Prepend(step);

    private static IEnumerable<WordFault> Faults(StepEntry step)
    {
        // What stands for the switches of a firmware says nothing of its own.
        if (step.Each != EachSwitch.None)
            yield break;
        // What a hand is told not to do promises nothing.
        var text = step.Text.ToLowerInvariant().Replace("do not switch it off", "", StringComparison.Ordinal);
        foreach (var promise in Promises)
        {
            var phrase = promise.Phrases.FirstOrDefault(p => text.Contains(p, StringComparison.Ordinal));
            var does = step.Does.GetValueOrDefault(promise.Key);
            if (
                phrase is not null
                && does != promise.Value
                && !promise.Also.Contains(does)
                && !IsKept(step, promise, text)
            )
                yield return new WordFault(
                    step.Id,
                    $"it says “{phrase}”, and {(does is null ? $"changes nothing of {World.Find(promise.Key)!.About}" : $"leaves {World.Find(promise.Key)!.About} at {does}")}"
                );
            if (
                phrase is null
                && does == promise.Value
                && (step.Where != StepPlace.System || promise.Key == "running")
                && !IsSaid(step, promise)
            )
                yield return new WordFault(
                    step.Id,
                    $"it leaves {World.Find(promise.Key)!.About} at {does}, and its text does not say so"
                );
        }
        if (step.Does.GetValueOrDefault("running") == "off" && Last(text, Starts) > Last(text, Stops))
            yield return new WordFault(step.Id, "it ends with a start, and leaves the machine off");
        if (
            step.Does.GetValueOrDefault("running") is not (null or "off")
            && Last(text, Promises[0].Phrases) > Last(text, Starts)
        )
            yield return new WordFault(step.Id, "it ends with the machine off, and leaves something running");
    }

    /// <summary>
    /// Whether a promise is kept in another way: power and running go together where a machine is shut down and its lead pulled in one
    /// breath; what is taken out and put back in stays where it was.
    /// </summary>
    private static bool IsKept(StepEntry step, Promise promise, string text) =>
        promise.Key switch
        {
            // Switched on and off again, or off and on again, it is as it was.
            "running" => step.Does.GetValueOrDefault("power") == "off"
                || step.Does.ContainsKey("mediumAt")
                || (!step.Does.ContainsKey("running") && Last(text, Starts) >= 0)
                || Last(text, Starts) > Last(text, promise.Phrases),
            "mediumAt" => step.Does.ContainsKey("mediumAt") || step.Where == StepPlace.OtherComputer,
            "power" => step.Needs.GetValueOrDefault("power")?.Contains(promise.Value) == true || step.Does.Count == 0,
            "loader" => step.Does.GetValueOrDefault("loader") is not null,
            _ => false,
        };

    /// <summary>Whether a deed is said in words that no table has: the step's kind or place says it.</summary>
    private static bool IsSaid(StepEntry step, Promise promise) =>
        promise.Key switch
        {
            // A step of another step's branch comes in its place and is read with it.
            "loader" => step.Where == StepPlace.Installer || step.Does.ContainsKey("installed"),
            "case" => step.Does.ContainsKey("state"),
            "mediumAt" => step.Text.Contains("tray", StringComparison.OrdinalIgnoreCase),
            "drive" => step.Does.GetValueOrDefault("outgoing") == "gone" && step.Kind == StepKind.Confirm,
            _ => false,
        };

    private static int Last(string text, IEnumerable<string> phrases) =>
        phrases.Select(p => text.LastIndexOf(p, StringComparison.Ordinal)).Max();
}
