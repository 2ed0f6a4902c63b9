using System.Globalization;
using System.Text.Json.Serialization;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Layouts;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Runs;

namespace FreshBoot.Core.Handover;

/// <summary>How a line of the acceptance list stands.</summary>
[JsonConverter(typeof(CamelCaseNames<Proof>))]
public enum Proof
{
    /// <summary>Proved.</summary>
    Proved,

    /// <summary>Nobody has shown it yet.</summary>
    Open,

    /// <summary>Shown to be otherwise.</summary>
    Failed,

    /// <summary>Nothing can prove it; a person looked and answers for it.</summary>
    Accepted,
}

/// <summary>What proves a line of the acceptance list.</summary>
[JsonConverter(typeof(CamelCaseNames<ProvedBy>))]
public enum ProvedBy
{
    /// <summary>What the second probe read.</summary>
    Probe,

    /// <summary>A step of the run that a hand did, and looked.</summary>
    Step,

    /// <summary>The record of the run itself.</summary>
    Record,

    /// <summary>A person who answers for it.</summary>
    Person,
}

/// <summary>A line of the acceptance list.</summary>
/// <param name="Id">Its id; the words for the new owner stand under it.</param>
/// <param name="Line">What has to be so.</param>
/// <param name="Rung">The rung that it breaks where it is not so.</param>
/// <param name="Proof">How it stands.</param>
/// <param name="By">What proves it, or is to.</param>
/// <param name="Says">What was found.</param>
public sealed record AcceptanceLine(string Id, string Line, Rung Rung, Proof Proof, ProvedBy By, string Says)
{
    /// <summary>What it rests on: the bundle, or the step, its event and who said so; null while nothing is there.</summary>
    public string? Evidence { get; init; }

    /// <summary>What stood there when the run began; null where nobody had looked.</summary>
    public string? Before { get; init; }

    /// <summary>Whether a person may answer for it as it is: the machine works without it.</summary>
    public bool MayAccept { get; init; }

    /// <summary>What a hand said of it instead of that it is so; null where it is.</summary>
    public string? Instead { get; init; }

    /// <summary>Whether it stands in the way of the hand-over.</summary>
    public bool IsOpen => Proof is Proof.Open or Proof.Failed;
}

/// <summary>All that the acceptance list is made from.</summary>
/// <param name="First">The dossier when the run began.</param>
/// <param name="Now">The dossier now.</param>
/// <param name="Probe">The readings of the newest bundle that proves; null while there is none.</param>
/// <param name="Plan">The cures of the route.</param>
/// <param name="System">The aim.</param>
/// <param name="Steps">The sheet.</param>
/// <param name="State">Where the run stands.</param>
/// <param name="Same">What came in since, held against the dossier when the run began; null where nothing came.</param>
/// <param name="Looked">Who looked since and says that it is this machine; null where nobody did.</param>
public sealed record AcceptanceQuestion(
    IFacts First,
    IFacts Now,
    IReadOnlyList<Reading>? Probe,
    Plan Plan,
    SystemEntry System,
    IReadOnlyList<Step> Steps,
    RunState State,
    Sameness? Same,
    string? Looked
)
{
    /// <summary>What the machine had when it was taken in, as a probe read it: a device that was there has to be there.</summary>
    public IReadOnlyList<Reading> ProbedFirst { get; init; } = [];
}

/// <summary>
/// Compares the machine as it is now with the one that was taken in and with the aim, and gathers what hands saw at the steps of
/// the run.
/// </summary>
public static class Acceptance
{
    /// <summary>The line that says whether all memory is seen.</summary>
    public const string MemoryLine = "memory";

    private const int MostHidden = 15;
    private const string Partitions = "storage.0.partitions";
    private const long RoundedBytes = 64L << 20;

    /// <summary>Kinds of devices that a probe tells by their names.</summary>
    private static readonly string[] Devices = ["graphics", "network", "audio", "camera", "bluetooth", "touch"];

    /// <summary>The whole list: what the probe shows, what hands saw, what the record says.</summary>
    public static IReadOnlyList<AcceptanceLine> Lines(AcceptanceQuestion question)
    {
        var (first, now, system) = (question.First, question.Now, question.System);
        var probed = question.Probe is not null;
        var planned = question.Plan.Over(first);
        // Not every probe sees partitions; what stands unchanged was seen before the work.
        var seen = probed ? now.Word(Partitions) : null;
        var layout =
            seen is not null && seen != first.Word(Partitions) && first.Word("plan.install") != "inPlace"
                ? MachineLayout.Of(planned, system).Layout
                : null;
        AcceptanceLine[] lines =
        [
            Line("system", $"It runs {system.FullName}", Rung.Kernel, System(now, system)) with
            {
                Before = first.Word("os.name"),
            },
            Fresh(
                Line(MemoryLine, "All memory is seen", Rung.Parts, Memory(now, planned, probed)),
                "memory.visibleMiB",
                question.Probe
            ) with
            {
                Before = Was(first, "memory.visibleMiB"),
                MayAccept = true,
            },
            Fresh(
                Line("drive", "The drive is the planned one", Rung.Parts, Drive(now, planned, probed)),
                "storage.0.sizeBytes",
                question.Probe
            ) with
            {
                Before = Was(first, "storage.0.sizeBytes"),
                MayAccept = true,
            },
            .. layout is not null && MachineLayout.IsOwn(layout)
                ?
                [
                    Line("divided", "The drive is divided as planned", Rung.Disk, Divided(seen!, layout)) with
                    {
                        MayAccept = true,
                    },
                ]
                : Array.Empty<AcceptanceLine>(),
            Fresh(
                Line("start", "It starts as planned", Rung.Firmware, Start(now, planned, probed)),
                "firmware.startedBy",
                question.Probe
            ) with
            {
                Before = Was(first, "firmware.startedBy"),
            },
            .. question.Probe is { } probe && Missing(question.ProbedFirst, probe) is { } found
                ?
                [
                    Line("devices", "Every device that was there is there", Rung.Devices, found) with
                    {
                        MayAccept = true,
                    },
                ]
                : Array.Empty<AcceptanceLine>(),
            Line(
                "same",
                "It is the machine that was taken in",
                Rung.Release,
                Same(probed ? question.Same : null, question.Looked)
            ),
            Line(
                "closed",
                "Whatever was opened for the work is closed again",
                Rung.Upkeep,
                question.State.Open.Count == 0
                    ? (Proof.Proved, "none open")
                    : (Proof.Open, string.Join("; ", question.State.Open))
            ) with
            {
                By = ProvedBy.Record,
            },
        ];
        return
        [
            .. lines.Select(l => Evident(l, question.State)).Select(l => Answered(l, question.State)),
            .. ByHands(question.Steps, question.State),
        ];
    }

    private static AcceptanceLine Line(string id, string line, Rung rung, (Proof Proof, string Says) found) =>
        new(id, line, rung, found.Proof, found.Proof == Proof.Accepted ? ProvedBy.Person : ProvedBy.Probe, found.Says);

    /// <summary>What the new bundle does not say stands as it was read before the work, and is told so.</summary>
    private static AcceptanceLine Fresh(AcceptanceLine line, string key, IReadOnlyList<Reading>? probe) =>
        line.Proof == Proof.Proved && probe?.Any(r => r.Key == key) == false
            ? line with
            {
                By = ProvedBy.Record,
                Says = $"{line.Says}, as read before the work; the new bundle does not say",
            }
            : line;

    private static string? Was(IFacts first, string key) => first[key] is { } value ? FactText.Show(key, value) : null;

    private static AcceptanceLine Evident(AcceptanceLine line, RunState state) =>
        line is { By: ProvedBy.Probe, Proof: not Proof.Open } && state.Code is { } code
            ? line with
            {
                Evidence = $"the bundle with the code {code}",
            }
            : line;

    /// <summary>What somebody answers for counts as long as it is found as it was when they did.</summary>
    private static AcceptanceLine Answered(AcceptanceLine line, RunState state) =>
        line is { MayAccept: true, Proof: Proof.Failed }
        && state.Accepted.GetValueOrDefault(line.Id) is { } said
        && said.Found == line.Says
            ? line with
            {
                Proof = Proof.Accepted,
                By = ProvedBy.Person,
                Instead = line.Says,
                Says = $"{line.Says}; {said.By} answers for it: {said.Text}",
                Evidence = $"event {said.Seq}",
            }
            : line;

    /// <summary>A line for each thing that steps prove; where several do, the one that stands worst counts.</summary>
    private static IEnumerable<AcceptanceLine> ByHands(IReadOnlyList<Step> steps, RunState state) =>
        state
            .Way(steps)
            .Where(s => s.Proves is not null)
            .GroupBy(s => s.Proves!, StringComparer.Ordinal)
            .Select(g => g.Select(s => ByHand(s, state.Over.GetValueOrDefault(s.Id))).MinBy(l => Order(l.Proof))!);

    private static int Order(Proof proof) =>
        proof == Proof.Open ? 0
        : proof == Proof.Accepted ? 1
        : 2;

    private static AcceptanceLine ByHand(Step step, Said? said)
    {
        var line = new AcceptanceLine(
            Id(step.Proves!),
            step.Proves!,
            step.Rung,
            Proof.Open,
            ProvedBy.Step,
            "nobody looked yet"
        )
        {
            Evidence = said is null ? null : $"step {step.Id}, event {said.Seq}",
        };
        var left = said?.Kind == RunEventKinds.Skipped;
        return said switch
        {
            null => line,
            { Kind: RunEventKinds.Deviated } => line with
            {
                Proof = Proof.Proved,
                Says = $"{said.By} looked in another way: {said.Text}",
            },
            _ when left || said.Outcome is not null => line with
            {
                Proof = Proof.Accepted,
                By = ProvedBy.Person,
                Instead = left ? said.Text : said.Outcome,
                Says = left ? $"not tried; {said.By} answers for it: {said.Text}" : $"{said.By} saw: {said.Outcome}",
            },
            _ => line with { Proof = Proof.Proved, Says = $"{said.By} looked" },
        };
    }

    /// <summary>The id of a line that a step proves: its letters and digits, small, with hyphens between the words.</summary>
    public static string Id(string line) =>
        string.Join(
            '-',
            string.Concat(line.Select(c => char.IsAsciiLetterOrDigit(c) ? char.ToLowerInvariant(c) : ' '))
                .Split(' ', StringSplitOptions.RemoveEmptyEntries)
        );

    /// <summary>
    /// Devices that the first probe named and the new one does not. Only what reads the same source can miss something: a bundle
    /// that was made without any of them says nothing, and null comes back. One that was replaced by another is there.
    /// </summary>
    private static (Proof, string)? Missing(IReadOnlyList<Reading> before, IReadOnlyList<Reading> now)
    {
        var sources = now.Select(r => r.Source).ToHashSet(StringComparer.Ordinal);
        var missing = new List<string>();
        var looked = 0;
        foreach (var kind in Devices)
        {
            var had = Named(before, kind).Where(r => sources.Contains(r.Source)).ToArray();
            var has = Named(now, kind).Select(r => r.Value.ToString()).ToList();
            looked += had.Length;
            var gone = had.Select(r => r.Value.ToString()!).Where(m => !has.Remove(m)).ToArray();
            // What is left over came in place of one that went.
            missing.AddRange(gone.Skip(has.Count).Select(m => $"{FactRegistry.Label($"{kind}.0.model")}: {m}"));
        }
        return looked == 0 ? null
            : missing.Count == 0 ? (Proof.Proved, Numbers.Count(looked, "device", "devices"))
            : (Proof.Failed, $"gone since: {string.Join("; ", missing)}");
    }

    private static IEnumerable<Reading> Named(IReadOnlyList<Reading> readings, string kind) =>
        readings.Where(r =>
            r.Key.StartsWith($"{kind}.", StringComparison.Ordinal) && r.Key.EndsWith(".model", StringComparison.Ordinal)
        );

    private static (Proof, string) System(IFacts now, SystemEntry system) =>
        now.Word("os.name") switch
        {
            null => (Proof.Open, "nobody has entered its name"),
            var name when name == system.FullName => (Proof.Proved, name),
            var name => (Proof.Failed, $"it says {name}"),
        };

    private static (Proof, string) Memory(IFacts now, IFacts planned, bool probed)
    {
        if (!probed)
            return NoProbe;
        if (now.Number("memory.visibleMiB") is not { } seen)
            return (Proof.Open, "the new bundle does not say how much it sees: enter it among the facts");
        // Written down in the course of the work it counts as well.
        if ((planned.Number("memory.installedMiB") ?? now.Number("memory.installedMiB")) is not { } fitted)
            return (Proof.Open, $"{Quantity.Memory(seen)} are seen; enter among the facts what is fitted");
        var share = $"{Quantity.Memory(seen)} of {Quantity.Memory(fitted)}";
        if (seen > fitted)
            return (
                Proof.Failed,
                $"{Quantity.Memory(seen)}, where {Quantity.Memory(fitted)} are planned: write down what is fitted, or look whose probe it is"
            );
        return seen * 100 >= fitted * (100 - MostHidden)
            ? (Proof.Proved, share)
            : (Proof.Failed, $"{share}: look for a cap or a module that is not seated");
    }

    private static (Proof, string) Drive(IFacts now, IFacts planned, bool probed)
    {
        if (!probed)
            return NoProbe;
        if (now.Number("storage.0.sizeBytes") is not { } size)
            return (Proof.Open, "the new bundle does not read it: enter its size among the facts");
        if (planned.Number("storage.0.sizeBytes") is not { } wanted)
            return (Proof.Proved, $"{Quantity.Drive(size)}; the plan knew of none before");
        // Drives of one printed size differ by a few per cent.
        return Math.Abs(size - wanted) * 20 <= wanted
            ? (Proof.Proved, Quantity.Drive(size))
            : (Proof.Failed, $"{Quantity.Drive(size)}, planned {Quantity.Drive(wanted)}");
    }

    /// <summary>
    /// Holds what the new probe saw on the drive against the layout of the plan. A hand that types sizes rounds them: two per cent and
    /// 64 MiB are as planned; what starts the machine has to end within the firmware's reach whatever was typed.
    /// </summary>
    private static (Proof, string) Divided(string seen, Layout layout)
    {
        var found = seen.Split("; ")
            .Select(p => p.Split(' '))
            .Select(p => (Start: Bytes(p[0]), Size: Bytes(p[^1])))
            .ToArray();
        var planned = layout.Partitions.Where(p => p.Use != PartitionUse.Extended).OrderBy(p => p.StartLba).ToArray();
        if (found.Length != planned.Length)
            return (
                Proof.Failed,
                $"{Numbers.Count(found.Length, "partition is", "partitions are")} on it, {planned.Length} were planned"
            );
        for (var i = 0; i < planned.Length; i++)
        {
            var wanted = planned[i].SizeLba * layout.SectorBytes;
            if (Math.Abs(found[i].Size - wanted) > wanted / 50 + RoundedBytes)
                return (
                    Proof.Failed,
                    $"partition {i + 1} has {Quantity.Drive(found[i].Size)}, and {Quantity.Drive(wanted)} were planned"
                );
            if (planned[i].Use == PartitionUse.Boot && found[i].Start + found[i].Size > layout.Reach.Bytes)
                return (
                    Proof.Failed,
                    $"the boot files end at {Quantity.Drive(found[i].Start + found[i].Size)}, and the firmware reads {Quantity.Drive(layout.Reach.Bytes)}"
                );
        }
        return (Proof.Proved, MachineLayout.InWords(layout));
    }

    private static long Bytes(string word) =>
        long.TryParse(word, NumberStyles.None, CultureInfo.InvariantCulture, out var bytes) ? bytes : 0;

    private static (Proof, string) Start(IFacts now, IFacts planned, bool probed)
    {
        if (!probed)
            return NoProbe;
        if (now.Word("firmware.startedBy") is not { } by)
            return (Proof.Open, "the new bundle does not say how it was started: enter it among the facts");
        if (planned.Word("firmware.startedBy") is not { } wanted)
            return (
                Proof.Proved,
                $"by {FactText.Show("firmware.startedBy", FactValue.Of(by))}; the plan took it as it came"
            );
        var shown = FactText.Show("firmware.startedBy", FactValue.Of(by));
        return (by == wanted ? Proof.Proved : Proof.Failed, $"by {shown}");
    }

    private static (Proof, string) Same(Sameness? same, string? looked) =>
        same switch
        {
            null => NoProbe,
            { Likeness: Likeness.Foreign } => (Proof.Failed, string.Join("; ", same.Differs)),
            { Proved: true } => (Proof.Proved, "the same serial numbers"),
            _ when looked is not null => (
                Proof.Accepted,
                same.Changed.Count > 0
                    ? $"{looked} looked: this machine, with {Numbers.Join(same.Changed, "and")}"
                    : $"no serial number tells; {looked} looked"
            ),
            { Likeness: Likeness.Asked } => (Proof.Failed, string.Join("; ", same.Differs)),
            _ => (
                Proof.Open,
                "the probe has no serial number that tells: look at the machine, and enter under Facts that it is this one"
            ),
        };

    private static (Proof, string) NoProbe => (Proof.Open, "no second probe");
}
