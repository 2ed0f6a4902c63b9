using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Ladder;

/// <summary>What to do next on a machine: the lowest rung that does not hold says it.</summary>
/// <param name="Rung">The rung the machine hangs at; the top one when all hold.</param>
/// <param name="Outcome">How that rung stands.</param>
/// <param name="Text">A short instruction without a full stop.</param>
public sealed record NextStep(Rung Rung, Outcome Outcome, string Text)
{
    /// <summary>The next step towards the system of <paramref name="aim"/>.</summary>
    public static NextStep Of(Assessment aim)
    {
        if (aim.Rungs.FirstOrDefault(r => r.Outcome > Outcome.Caveat) is not { } broken)
            return new NextStep(Rung.Upkeep, aim.Outcome, "Ready to install");
        if (broken.Findings.Count == 0)
            return new NextStep(broken.Rung, broken.Outcome, "Read the label, then run the probe");
        // The worst finding speaks for its rung; where nothing is known the first question does.
        var finding = broken.Findings.First(f => f.Outcome == broken.Outcome);
        var text = finding switch
        {
            { Outcome: Outcome.Unknown, UndecidedBy: [var key, ..] } => Asks.GetValueOrDefault(key)
                ?? $"Find out: {Lower(FactRegistry.Label(key))}",
            { Outcome: Outcome.Wall } when broken.Rung == Rung.Release => "Stop: not released",
            { Outcome: Outcome.Wall } => $"No way up: needs {finding.Needed}",
            { Cures: [var cure, ..] } => cure.Brief ?? cure.Does,
            _ => finding.Needed,
        };
        return new NextStep(broken.Rung, broken.Outcome, text);
    }

    /// <summary>The questions that come up most, short enough to be read from a metre away.</summary>
    private static readonly Dictionary<string, string> Asks = new(StringComparer.Ordinal)
    {
        ["release.owner"] = "Ask the owner for leave",
        ["release.managed"] = "Check who manages it",
        ["release.data"] = "Ask about the data",
        ["release.locks"] = "Look for locks",
        ["release.encryption"] = "Look for drive encryption",
        ["parts.powersOn"] = "See if it powers on",
        ["parts.battery"] = "Look at the battery",
        ["parts.storage"] = "Check the drive’s health",
        ["tpm.version"] = "Look at the TPM line",
        ["firmware.kind"] = "Look for a UEFI mode",
        ["firmware.secureBoot"] = "Look for Secure Boot",
        ["memory.installedMiB"] = "Read the memory labels",
    };

    /// <summary>In the middle of a sentence; abbreviations such as TPM stay as they are.</summary>
    private static string Lower(string label) =>
        label.Length > 1 && char.IsUpper(label[1]) || label.StartsWith("Secure Boot", StringComparison.Ordinal)
            ? label
            : char.ToLowerInvariant(label[0]) + label[1..];
}
