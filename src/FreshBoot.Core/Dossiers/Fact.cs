using System.Text.Json.Serialization;

namespace FreshBoot.Core.Dossiers;

/// <summary>Where a reading comes from, weakest first: a stronger origin wins.</summary>
[JsonConverter(typeof(CamelCaseNames<Origin>))]
public enum Origin
{
    /// <summary>Computed from other facts.</summary>
    Derived,

    /// <summary>
    /// Left by a step of a run, or by a chip that was written: what was known before holds no longer, and whatever is measured
    /// afterwards counts before it.
    /// </summary>
    Work,

    /// <summary>Entered by hand.</summary>
    Entered,

    /// <summary>Read from the machine.</summary>
    Probed,

    /// <summary>Chosen by a person among sources that disagree.</summary>
    Chosen,
}

/// <summary>One source's word on one fact.</summary>
/// <param name="Key">A key of <see cref="FactRegistry"/>.</param>
/// <param name="Value">The value in the unit of the key.</param>
/// <param name="Source">What it was read from, such as <c>smbios type 17</c> or <c>maker's label</c>.</param>
/// <param name="Origin">How it came in.</param>
/// <param name="TakenAt">When it was measured, by the clock of whoever measured it. Bench clocks lie.</param>
/// <param name="By">Who entered or chose it; null for what a probe read.</param>
/// <param name="Receipt">Position in the order of receipt; the later of two readings of one origin wins.</param>
public sealed record Reading(
    string Key,
    FactValue Value,
    string Source,
    Origin Origin,
    DateTimeOffset TakenAt,
    string? By = null,
    long Receipt = 0
);

/// <summary>A fact of the dossier: the reading that counts, and the readings that disagree with it.</summary>
/// <param name="Key">A key of <see cref="FactRegistry"/>.</param>
/// <param name="Value">The value in force.</param>
/// <param name="Unit">The unit of the value, null where there is none.</param>
/// <param name="Source">What it was read from.</param>
/// <param name="Origin">How it came in.</param>
/// <param name="TakenAt">When it was measured.</param>
/// <param name="By">Who entered or chose it.</param>
/// <param name="Disagreeing">Readings of other sources with another value, strongest first.</param>
public sealed record Fact(
    string Key,
    FactValue Value,
    string? Unit,
    string Source,
    Origin Origin,
    DateTimeOffset TakenAt,
    string? By,
    IReadOnlyList<Reading> Disagreeing
);
