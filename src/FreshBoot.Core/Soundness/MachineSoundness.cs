using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Soundness;

/// <summary>A part's verdict with its reasons, worst first.</summary>
public sealed record PartSoundness(Verdict Verdict, IReadOnlyList<Reason> Reasons);

/// <summary>A memory module as the firmware lists it.</summary>
/// <param name="Slot">Where it sits.</param>
/// <param name="SizeMiB">Its size in MiB.</param>
/// <param name="Type">Its type, null while unknown.</param>
/// <param name="Model">Its maker and part number, null while unknown.</param>
public sealed record MemoryModuleFound(string? Slot, long SizeMiB, string? Type, string? Model);

/// <summary>What forbids a run until it is settled.</summary>
/// <param name="Text">A sentence with why, and what to do.</param>
/// <param name="Danger">Whether it is a danger to whoever touches the machine, even to take it apart.</param>
public sealed record SoundnessStop(string Text, bool Danger);

/// <summary>What is sound on a machine, part by part.</summary>
/// <param name="Drives">Its drives.</param>
/// <param name="Battery">Its battery.</param>
/// <param name="Memory">Its memory.</param>
/// <param name="Modules">Its memory modules.</param>
/// <param name="Ports">What its drives and ports can read, in sentences.</param>
/// <param name="Other">Adapter, clock battery, liquid: what somebody noted.</param>
/// <param name="Stops">What forbids a run until it is settled.</param>
public sealed record MachineSoundness(
    IReadOnlyList<DriveSoundness> Drives,
    PartSoundness Battery,
    PartSoundness Memory,
    IReadOnlyList<MemoryModuleFound> Modules,
    IReadOnlyList<string> Ports,
    PartSoundness Other,
    IReadOnlyList<SoundnessStop> Stops
)
{
    private const string House = "rule of the house 2026-11";

    /// <summary>Judges a machine by its dossier.</summary>
    public static MachineSoundness Of(Dossier facts) =>
        new(
            [
                .. Enumerable
                    .Range(0, 10)
                    .Select(i => DriveRules.Judge(facts, i))
                    .Where(d => d.SizeBytes is not null || d.Reasons.Count > 0),
            ],
            BatteryOf(facts),
            MemoryOf(facts),
            [.. ModulesOf(facts)],
            [.. PortsOf(facts)],
            OtherOf(facts),
            [.. StopsOf(facts)]
        );

    /// <summary>
    /// What forbids a run, whatever the route: each a sentence with why, and what to do. A person's choice among sources that
    /// disagree counts; a drive that reports itself failing is not talked sound by an earlier word.
    /// </summary>
    public static IEnumerable<SoundnessStop> StopsOf(Dossier facts)
    {
        if (facts.Word("parts.battery") == "swollen")
            yield return new SoundnessStop(
                "The battery is swollen or leaking: switch off, do not charge, press or pierce it, have it taken out by the local rules, then enter the battery as none or as new, by name.",
                Danger: true
            );
        if (facts.Word("parts.memoryTest") == "failed")
            yield return new SoundnessStop(
                "The memory failed its test: take the faulty module out, test again, and enter the result.",
                Danger: false
            );
        var chosen =
            facts.Find("parts.storage") is { Origin: Origin.Chosen } choice && choice.Value.ToString() != "replace";
        if (chosen)
            yield break;
        var failing = Enumerable
            .Range(0, 10)
            .Select(i => DriveRules.Judge(facts, i))
            .FirstOrDefault(d => d.Verdict == Verdict.Replace);
        if (failing is not null)
            yield return new SoundnessStop(
                $"The drive{(failing.Model is { } model ? $" {model}" : "")} is failing ({Lower(failing.Reasons[0].Text)}): save what is wanted first, put in another drive, and probe again.",
                Danger: false
            );
        else if (facts.Word("parts.storage") == "replace")
            yield return new SoundnessStop(
                "The drive is failing: save what is wanted first, put in another drive, and enter its health.",
                Danger: false
            );
    }

    private static PartSoundness BatteryOf(Dossier facts)
    {
        var reasons = new List<Reason>();
        switch (facts.Word("parts.battery"))
        {
            case "swollen":
                reasons.Add(
                    new Reason(
                        Verdict.Replace,
                        "Swollen or leaking: a danger of fire. Do not charge, press or pierce it",
                        "local rules on batteries come first"
                    )
                );
                break;
            case "sound":
                reasons.Add(new Reason(Verdict.Sound, "Flat and dry", "looked at"));
                break;
            case "none":
                reasons.Add(new Reason(Verdict.Sound, "Has none", "looked at"));
                break;
        }
        if (facts.Number("battery.healthPercent") is { } health)
            reasons.Add(
                new Reason(
                    health < 50 ? Verdict.Replace
                        : health < 75 ? Verdict.Watch
                        : Verdict.Sound,
                    $"Holds {health} % of what it was built for ({Wh("battery.fullMWh")} of {Wh("battery.designMWh")} Wh)",
                    House
                )
            );
        if (facts.Number("battery.cycles") is { } cycles)
            reasons.Add(new Reason(cycles >= 800 ? Verdict.Watch : Verdict.Sound, $"{cycles} charge cycles", House));
        return Judged(reasons);

        string Wh(string key) => facts.Number(key) is { } mwh ? (mwh / 1000m).ToString("0.#", Invariant) : "?";
    }

    private static PartSoundness MemoryOf(Dossier facts)
    {
        var reasons = new List<Reason>();
        switch (facts.Word("parts.memoryTest"))
        {
            case "passed":
                reasons.Add(new Reason(Verdict.Sound, "Passed a memory test", "memory test"));
                break;
            case "failed":
                reasons.Add(new Reason(Verdict.Replace, "Failed a memory test", "memory test"));
                break;
            default:
                reasons.Add(
                    new Reason(Verdict.Unknown, "Untested: second-hand until a memory test says otherwise", House)
                );
                break;
        }
        var group = facts.Number("memory.group") ?? 1;
        if (group > 1 && facts.Number("memory.slotsUsed") is { } used && used % group != 0)
            reasons.Add(
                new Reason(
                    Verdict.Watch,
                    $"{Numbers.Word(used)} modules where they go in by {Numbers.Word(group)}: one group is incomplete",
                    "catalogue, by model"
                )
            );
        var modules = ModulesOf(facts).ToArray();
        if (modules.Select(m => m.SizeMiB).Distinct().Count() > 1)
            reasons.Add(new Reason(Verdict.Watch, "Modules of different sizes: they may run slower together", House));
        if (facts.Word("memory.seen") == "part")
            reasons.Add(new Reason(Verdict.Watch, MemorySeen(facts), House));
        return Judged(reasons);
    }

    /// <summary>What a system sees of the memory that is fitted, and what that may come from.</summary>
    public static string MemorySeen(IFacts facts) =>
        $"The system sees {Quantity.Memory(facts.Number("memory.visibleMiB") ?? 0)} of {Quantity.Memory(facts.Number("memory.installedMiB") ?? 0)}: a cap, a loose module, or much taken by graphics";

    private static IEnumerable<MemoryModuleFound> ModulesOf(Dossier facts)
    {
        for (var i = 0; i < 10; i++)
            if (facts.Number($"module.{i}.sizeMiB") is { } size)
                yield return new MemoryModuleFound(
                    facts.Word($"module.{i}.slot"),
                    size,
                    facts.Word($"module.{i}.type"),
                    facts.Word($"module.{i}.model")
                );
    }

    private static IEnumerable<string> PortsOf(Dossier facts)
    {
        switch (facts.Word("optical.reads"))
        {
            case "cd":
                yield return "The disc drive reads CD only: at most 700 MiB a disc, and no DVD.";
                break;
            case "dvd":
                yield return "The disc drive reads CD and DVD.";
                break;
            case "none":
                yield return "No disc drive: start from a stick.";
                break;
        }
        switch (facts.Word("usb.generation"))
        {
            case "1.1":
                yield return "USB 1.1 only: a stick reads at about 1 MB/s, a gigabyte takes a quarter of an hour.";
                break;
            case "2.0":
                yield return "USB 2.0: a stick reads at about 30 MB/s.";
                break;
            case "3.0":
                yield return "USB 3: take the slow port if the fast one does not start a stick.";
                break;
        }
        for (var i = 0; i < 10; i++)
            if (facts.Word($"slot.{i}.kind") is { } slot && facts.Word($"slot.{i}.use") is { } use)
                yield return $"{slot}: {(use == "free" ? "free" : "in use")}.";
    }

    private static PartSoundness OtherOf(Dossier facts)
    {
        var reasons = new List<Reason>();
        Note("parts.adapter", "missing", "The power adapter is missing", "present", "Power adapter present");
        Note(
            "parts.clockBattery",
            "flat",
            "The clock battery is flat: settings and time are lost",
            "good",
            "Clock battery keeps the time"
        );
        Note("parts.liquid", "marks", "Marks of liquid: expect faults that come and go", "none", "No marks of liquid");
        return Judged(reasons);

        void Note(string key, string bad, string says, string good, string fine)
        {
            if (facts.Word(key) is { } word && (word == bad || word == good))
                reasons.Add(
                    new Reason(word == bad ? Verdict.Watch : Verdict.Sound, word == bad ? says : fine, "looked at")
                );
        }
    }

    private static PartSoundness Judged(List<Reason> reasons) =>
        new(
            reasons.Select(r => r.Verdict).DefaultIfEmpty(Verdict.Unknown).Max(),
            [.. reasons.OrderByDescending(r => r.Verdict)]
        );

    private static string Lower(string text) => char.ToLowerInvariant(text[0]) + text[1..];

    private static readonly System.Globalization.CultureInfo Invariant = System
        .Globalization
        .CultureInfo
        .InvariantCulture;
}
