using FreshBoot.Core.Runs;

namespace FreshBoot.Data.Runs;

/// <summary>A run, with the snapshot it began from.</summary>
public sealed class RunRow
{
    /// <summary>Its id.</summary>
    public required string Id { get; init; }

    /// <summary>Its place among all runs, 1 for the first. Clocks are set back; this only goes up.</summary>
    public required long Number { get; init; }

    /// <summary>The machine.</summary>
    public required int MachineId { get; init; }

    /// <summary>The route as it was chosen, as JSON.</summary>
    public required string Route { get; init; }

    /// <summary>The sheet, as JSON.</summary>
    public required string Steps { get; init; }

    /// <summary>The readings when it began, as JSON.</summary>
    public required string Dossier { get; init; }

    /// <summary>The next place in the order of receipt when it began: what comes later is new.</summary>
    public required long ReceiptAtStart { get; init; }

    /// <summary>Hash of the catalogue when it began.</summary>
    public required string CatalogueHash { get; init; }

    /// <summary>Why it began although the release rung was open; null where it was not.</summary>
    public string? Override { get; init; }

    /// <summary>Who began it.</summary>
    public required string By { get; init; }

    /// <summary>When it began.</summary>
    public required DateTimeOffset StartedAt { get; init; }

    /// <summary>
    /// SHA-256 over all of the above, hexadecimal: the events are sealed on top of it. Null for runs of versions that sealed events only.
    /// </summary>
    public string? Seal { get; set; }

    /// <summary>The seal that its row has now.</summary>
    public string SealNow =>
        EventChain.SealOf(
            Id,
            $"{MachineId}",
            Route,
            Steps,
            Dossier,
            $"{ReceiptAtStart}",
            CatalogueHash,
            Override,
            By,
            $"{StartedAt.ToUnixTimeMilliseconds()}"
        );

    /// <summary>How many events there are; also the concurrency token, and how a removed last row shows.</summary>
    public int Events { get; set; }
}

/// <summary>An event of a run.</summary>
public sealed class RunEventRow
{
    /// <summary>Key of the row.</summary>
    public long Id { get; init; }

    /// <summary>The run.</summary>
    public required string RunId { get; init; }

    /// <summary>Its place in the chain, 1 for the first.</summary>
    public required int Seq { get; init; }

    /// <summary>The teller's id.</summary>
    public required string EventId { get; init; }

    /// <summary>What happened.</summary>
    public required string Kind { get; init; }

    /// <summary>The step.</summary>
    public required string StepId { get; init; }

    /// <summary>Who.</summary>
    public required string By { get; init; }

    /// <summary>What goes with it, as JSON.</summary>
    public required string Data { get; init; }

    /// <summary>When the server heard of it.</summary>
    public required DateTimeOffset At { get; init; }

    /// <summary>Hash of the chain up to here.</summary>
    public required string Hash { get; init; }
}

/// <summary>How long a step took: rows are only added.</summary>
public sealed class StepTimeRow
{
    /// <summary>Key of the row.</summary>
    public long Id { get; init; }

    /// <summary>Which step, wherever it stands.</summary>
    public required string Step { get; init; }

    /// <summary>What the sheet said, in minutes.</summary>
    public required double UsualMinutes { get; init; }

    /// <summary>What it took, in minutes.</summary>
    public required double TookMinutes { get; init; }

    /// <summary>The run.</summary>
    public required string RunId { get; init; }

    /// <summary>When it was over.</summary>
    public required DateTimeOffset At { get; init; }
}
