using System.Text.Json.Serialization;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
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
public sealed record AcceptanceLine(string Line, Proof Proof, string Says);

/// <summary>Compares the machine as it is now with the one that was taken in and with the aim.</summary>
public static class Acceptance
{
    private const int MostHidden = 15;

    /// <summary>The first six lines of the list.</summary>
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
        return
        [
            System(now, system),
            Memory(now, planned, probed),
            Drive(now, planned, probed),
            Start(now, planned, probed),
            Same(probed ? same : null, looked),
            Closed(state),
        ];
    }

    private static AcceptanceLine System(IFacts now, SystemEntry system)
    {
        var line = $"It runs {system.FullName}";
        return now.Word("os.name") switch
        {
            null => new(line, Proof.Open, "nobody has entered its name"),
            var name when name == system.FullName => new(line, Proof.Proved, name),
            var name => new(line, Proof.Failed, $"it says {name}"),
        };
    }

    private static AcceptanceLine Memory(IFacts now, IFacts planned, bool probed)
    {
        const string Line = "All memory is seen";
        if (
            !probed
            || now.Number("memory.visibleMiB") is not { } seen
            || planned.Number("memory.installedMiB") is not { } fitted
        )
            return new(Line, Proof.Open, "no second probe");
        return seen > fitted
                ? new(
                    Line,
                    Proof.Failed,
                    $"{Quantity.Memory(seen)}, where {Quantity.Memory(fitted)} are planned: write down what is fitted, or look whose probe it is"
                )
            : seen * 100 >= fitted * (100 - MostHidden)
                ? new(Line, Proof.Proved, $"{Quantity.Memory(seen)} of {Quantity.Memory(fitted)}")
            : new(
                Line,
                Proof.Failed,
                $"{Quantity.Memory(seen)} of {Quantity.Memory(fitted)}: look for a cap or a module that is not seated"
            );
    }

    private static AcceptanceLine Drive(IFacts now, IFacts planned, bool probed)
    {
        const string Line = "The drive is the planned one";
        if (
            !probed
            || now.Number("storage.0.sizeBytes") is not { } size
            || planned.Number("storage.0.sizeBytes") is not { } wanted
        )
            return new(Line, Proof.Open, "no second probe");
        // Drives of one printed size differ by a few per cent.
        return Math.Abs(size - wanted) * 20 <= wanted
            ? new(Line, Proof.Proved, Quantity.Drive(size))
            : new(Line, Proof.Failed, $"{Quantity.Drive(size)}, planned {Quantity.Drive(wanted)}");
    }

    private static AcceptanceLine Start(IFacts now, IFacts planned, bool probed)
    {
        const string Line = "It starts as planned";
        if (
            !probed
            || now.Word("firmware.startedBy") is not { } by
            || planned.Word("firmware.startedBy") is not { } wanted
        )
            return new(Line, Proof.Open, "no second probe");
        var shown = FactText.Show("firmware.startedBy", FactValue.Of(by));
        return new(Line, by == wanted ? Proof.Proved : Proof.Failed, $"by {shown}");
    }

    private static AcceptanceLine Same(Sameness? same, string? looked)
    {
        const string Line = "It is the machine that was taken in";
        return same switch
        {
            null => new(Line, Proof.Open, "no second probe"),
            { Likeness: Likeness.Foreign } => new(Line, Proof.Failed, string.Join("; ", same.Differs)),
            { Proved: true } => new(Line, Proof.Proved, "the same serial numbers"),
            _ when looked is not null => new(
                Line,
                Proof.Accepted,
                same.Changed.Count > 0
                    ? $"{looked} looked: this machine, with {Numbers.Join(same.Changed, "and")}"
                    : $"no serial number tells; {looked} looked"
            ),
            { Likeness: Likeness.Asked } => new(Line, Proof.Failed, string.Join("; ", same.Differs)),
            _ => new(
                Line,
                Proof.Open,
                "the probe has no serial number that tells: look at the machine, and enter under Facts that it is this one"
            ),
        };
    }

    private static AcceptanceLine Closed(RunState state) =>
        new(
            "Every relaxation is closed",
            state.Open.Count == 0 ? Proof.Proved : Proof.Open,
            state.Open.Count == 0 ? "none open" : string.Join("; ", state.Open)
        );
}
