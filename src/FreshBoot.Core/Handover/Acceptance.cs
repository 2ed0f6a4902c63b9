using System.Globalization;
using System.Text.Json.Serialization;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Layouts;
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

/// <summary>A line of the acceptance list.</summary>
/// <param name="Line">What has to be so.</param>
/// <param name="Proof">How it stands.</param>
/// <param name="Says">What was found.</param>
/// <param name="ForOwner">The same for the new owner, who knows none of the trade's words.</param>
public sealed record AcceptanceLine(string Line, Proof Proof, string Says, string ForOwner);

/// <summary>Compares the machine as it is now with the one that was taken in and with the aim.</summary>
public static class Acceptance
{
    /// <summary>The line that says whether all memory is seen.</summary>
    public const string MemoryLine = "All memory is seen";

    private const int MostHidden = 15;
    private const string Partitions = "storage.0.partitions";
    private const long RoundedBytes = 64L << 20;

    /// <summary>The first lines of the list.</summary>
    /// <param name="first">The dossier when the run began.</param>
    /// <param name="now">The dossier now.</param>
    /// <param name="probed">Whether a probe came in since.</param>
    /// <param name="plan">The cures of the route.</param>
    /// <param name="system">The aim.</param>
    /// <param name="state">Where the run stands.</param>
    /// <param name="same">What came in since, held against the dossier when the run began; null where nothing came.</param>
    /// <param name="looked">Who looked since and says that it is this machine; null where nobody did.</param>
    public static IReadOnlyList<AcceptanceLine> Lines(
        IFacts first,
        IFacts now,
        bool probed,
        Plan plan,
        SystemEntry system,
        RunState state,
        Sameness? same,
        string? looked
    )
    {
        var planned = plan.Over(first);
        // Not every probe sees partitions; what stands unchanged was seen before the work.
        var seen = probed ? now.Word(Partitions) : null;
        AcceptanceLine[] divided =
            seen is not null
            && seen != first.Word(Partitions)
            && first.Word("plan.install") != "inPlace"
            && MachineLayout.Of(planned, system).Layout is { } layout
            && MachineLayout.IsOwn(layout)
                ?
                [
                    Line(
                        "The drive is divided as planned",
                        "Its drive is divided as it was planned.",
                        Divided(seen, layout)
                    ),
                ]
                : [];
        return
        [
            Line($"It runs {system.FullName}", $"It runs {system.FullName}.", System(now, system)),
            Line(MemoryLine, "It uses all of its memory.", Memory(now, planned, probed)),
            Line("The drive is the planned one", "It has the drive that was planned.", Drive(now, planned, probed)),
            .. divided,
            Line("It starts as planned", "It starts by itself.", Start(now, planned, probed)),
            Line(
                "It is the machine that was taken in",
                "It is the computer that was brought in, and no other.",
                Same(probed ? same : null, looked)
            ),
            Line(
                "Whatever was opened for the work is closed again",
                "Whatever was opened for the work is closed again.",
                state.Open.Count == 0 ? (Proof.Proved, "none open") : (Proof.Open, string.Join("; ", state.Open))
            ),
        ];
    }

    private static AcceptanceLine Line(string line, string forOwner, (Proof Proof, string Says) found) =>
        new(line, found.Proof, found.Says, forOwner);

    private static (Proof, string) System(IFacts now, SystemEntry system) =>
        now.Word("os.name") switch
        {
            null => (Proof.Open, "nobody has entered its name"),
            var name when name == system.FullName => (Proof.Proved, name),
            var name => (Proof.Failed, $"it says {name}"),
        };

    private static (Proof, string) Memory(IFacts now, IFacts planned, bool probed)
    {
        if (
            !probed
            || now.Number("memory.visibleMiB") is not { } seen
            || planned.Number("memory.installedMiB") is not { } fitted
        )
            return NoProbe;
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
        if (
            !probed
            || now.Number("storage.0.sizeBytes") is not { } size
            || planned.Number("storage.0.sizeBytes") is not { } wanted
        )
            return NoProbe;
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
        if (
            !probed
            || now.Word("firmware.startedBy") is not { } by
            || planned.Word("firmware.startedBy") is not { } wanted
        )
            return NoProbe;
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
