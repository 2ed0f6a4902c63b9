using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Identity;

namespace FreshBoot.Core.Rehearsal;

/// <summary>
/// What a start in a twin showed, and exactly what it was made from. It is evidence for that and nothing else: where one of
/// these differs from what is asked for, it is another's.
/// </summary>
/// <param name="Job">The job that made it.</param>
/// <param name="ImageSha256">SHA-256 of the image that was started.</param>
/// <param name="DossierVersion">Version of the machine's dossier from which the twin was set up.</param>
/// <param name="Identity">Number of the given identity that it took; null for the machine's own.</param>
/// <param name="StartedAs"><c>disc</c> or <c>stick</c>.</param>
/// <param name="Firmware"><c>bios</c>, <c>uefi64</c> or <c>uefi32</c>.</param>
/// <param name="SetUp">Hash of the twin's set-up.</param>
/// <param name="Verdict"><c>letIn</c>, <c>refused</c>, <c>loader</c> or <c>nothing</c>.</param>
/// <param name="Why">The verdict in a sentence.</param>
/// <param name="Differs">What the twin was not like.</param>
/// <param name="By">Who asked for it.</param>
/// <param name="At">When it ended.</param>
public sealed record RehearsalRecord(
    int Job,
    string ImageSha256,
    long DossierVersion,
    string? Identity,
    string StartedAs,
    string Firmware,
    string SetUp,
    string Verdict,
    string Why,
    IReadOnlyList<string> Differs,
    string By,
    DateTimeOffset At
);

/// <summary>What a rehearsal is asked to be evidence for.</summary>
/// <param name="ImageSha256">The image.</param>
/// <param name="Facts">The machine.</param>
/// <param name="DossierVersion">Version of its dossier.</param>
/// <param name="Identity">The identity that it takes; null for its own.</param>
/// <param name="IdentityId">Number of that identity.</param>
/// <param name="StartsAs">How it will be started: <c>disc</c> or <c>stick</c>; null while no medium is chosen.</param>
/// <param name="Firmware">The firmware it will be started by; null where nobody knows.</param>
public sealed record RehearsalAsked(
    string ImageSha256,
    IFacts Facts,
    long DossierVersion,
    IdentityProfile? Identity,
    string? IdentityId,
    string? StartsAs,
    string? Firmware
);

/// <summary>A rehearsal held against what it is asked for.</summary>
/// <param name="Record">The rehearsal.</param>
/// <param name="OfAnother">In what it is another's, such as <c>of another image</c>; none where it is evidence.</param>
public sealed record RehearsalSeen(RehearsalRecord Record, IReadOnlyList<string> OfAnother)
{
    /// <summary>Whether it is evidence for exactly what was asked.</summary>
    public bool IsEvidence => OfAnother.Count == 0;

    /// <summary>Holds a rehearsal against what it is asked for.</summary>
    public static RehearsalSeen Of(RehearsalRecord record, RehearsalAsked asked)
    {
        var other = new List<string>();
        if (record.ImageSha256 != asked.ImageSha256)
            other.Add($"of another image ({record.ImageSha256[..Math.Min(8, record.ImageSha256.Length)]}…)");
        if (record.DossierVersion != asked.DossierVersion)
            other.Add($"of an earlier dossier (version {record.DossierVersion}, now {asked.DossierVersion})");
        if (record.Identity != asked.IdentityId)
            other.Add(
                record.Identity is null
                    ? "of the machine’s own identity"
                    : $"of another identity (number {record.Identity})"
            );
        if (asked.StartsAs is { } medium && record.StartedAs != medium)
            other.Add($"of a start as a {record.StartedAs}");
        if (asked.Firmware is { } firmware && record.Firmware != firmware)
            other.Add($"of a start by {record.Firmware}");
        // The same machine and identity may still be set up otherwise: by another catalogue or version of this program.
        if (other.Count == 0 && SetUpNow(record, asked) != record.SetUp)
            other.Add("of another set-up of the twin");
        return new RehearsalSeen(record, other);
    }

    private static string? SetUpNow(RehearsalRecord record, RehearsalAsked asked)
    {
        try
        {
            return TwinMachine.Of(asked.Facts, record.Firmware, asked.Identity).SetUp;
        }
        catch (RefusedException)
        {
            return null;
        }
    }
}
