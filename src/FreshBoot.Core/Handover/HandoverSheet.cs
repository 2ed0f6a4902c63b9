using FreshBoot.Core.Catalogue;

namespace FreshBoot.Core.Handover;

/// <summary>Something that was changed on the machine, and why.</summary>
/// <param name="Kind">What kind of change it is.</param>
/// <param name="What">What was done, in the words of the trade.</param>
/// <param name="Why">The finding that asked for it.</param>
/// <param name="Extends">Whether it is no change of the machine: updates after the usual ones were paid for.</param>
public sealed record Changed(Outcome Kind, string What, string Why, bool Extends = false);

/// <summary>The end of a run's chain, as a paper carries it out of the house.</summary>
/// <param name="Run">The run.</param>
/// <param name="Events">How many events it has.</param>
/// <param name="Head">SHA-256 at its end, hexadecimal.</param>
/// <param name="RowSealed">Whether route, sheet and dossier are under it too; in runs of older versions only the events are.</param>
public sealed record SealedRecord(string Run, int Events, string Head, bool RowSealed);

/// <summary>What the shop knows of a machine that may leave: the sheets for its owner, in any language, are made from it.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="Machine">Maker and model.</param>
/// <param name="Serial">Serial number of the casing.</param>
/// <param name="System">What runs on it; null where the machine was retired.</param>
/// <param name="Class">The class of that system.</param>
/// <param name="SupportEnds">The last day of updates; null where no end is set.</param>
/// <param name="Processor">Its processor; null where nobody knows it.</param>
/// <param name="Memory">Its memory.</param>
/// <param name="Drive">Its drive.</param>
/// <param name="Changed">What was changed and why.</param>
/// <param name="Used">What it was installed from: image, recipes, medium, as the record has them.</param>
/// <param name="Despite">Where a step went on without something, and why.</param>
/// <param name="ToKnow">What wants knowing.</param>
/// <param name="MakersAccount">Whether the owner makes an account with the maker.</param>
/// <param name="Privacy">
/// What became of the system's questions about data: <c>refused</c> each, <c>answered</c> by the answer file, or null where they
/// are the owner's to answer.
/// </param>
/// <param name="Acceptance">What was proved.</param>
/// <param name="By">Who did it.</param>
/// <param name="FinishedAt">When it was finished.</param>
/// <param name="Language">The language of its owner.</param>
/// <param name="Record">The end of the chain of its run: a record that was written anew later no longer fits it.</param>
public sealed record HandoverSheet(
    string Tag,
    string Machine,
    string? Serial,
    string? System,
    SystemClass? Class,
    DateOnly? SupportEnds,
    string? Processor,
    string? Memory,
    string? Drive,
    IReadOnlyList<Changed> Changed,
    IReadOnlyList<string> Used,
    IReadOnlyList<string> Despite,
    IReadOnlyList<string> ToKnow,
    bool MakersAccount,
    string? Privacy,
    IReadOnlyList<AcceptanceLine> Acceptance,
    string By,
    DateTimeOffset FinishedAt,
    string Language,
    SealedRecord Record
);
