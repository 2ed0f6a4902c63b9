using System.Text.Json.Serialization;
using FreshBoot.Core.Catalogue;

namespace FreshBoot.Core.Rehearsal;

/// <summary>Why a whole way in the twin stopped; fault finder and reckoning use the same words.</summary>
[JsonConverter(typeof(CamelCaseNames<WholeWayStop>))]
public enum WholeWayStop
{
    /// <summary>Firmware found nothing on the medium that it starts.</summary>
    MediumNotStarted,

    /// <summary>Secure Boot is on, and the loader carries no signature that it knows.</summary>
    NotSigned,

    /// <summary>The installer's own checks refuse the machine.</summary>
    Refused,

    /// <summary>Its loader ran; the installer said nothing.</summary>
    Silent,

    /// <summary>It cannot run on this processor.</summary>
    Processor,

    /// <summary>No drive is seen.</summary>
    NoDrive,

    /// <summary>The drive cannot be divided as planned.</summary>
    NotDivided,

    /// <summary>Copying fails.</summary>
    Copying,

    /// <summary>There is no place for the loader.</summary>
    NoLoaderPlace,

    /// <summary>The installer stopped for another reason of its own.</summary>
    Stopped,

    /// <summary>It asks something that nobody wrote down an answer for.</summary>
    Unanswered,

    /// <summary>Installed, and then nothing on its drive starts.</summary>
    DriveNotStarted,

    /// <summary>Another system started in its place.</summary>
    OtherSystem,

    /// <summary>The loader on the drive ran, and the system did not come up.</summary>
    SystemNotStarted,

    /// <summary>It came up, and the probe did not run.</summary>
    NotProbed,

    /// <summary>Less memory is seen than is fitted.</summary>
    Capped,

    /// <summary>What the probe found is not what was planned.</summary>
    NotAsPlanned,

    /// <summary>Nobody wrote down how one talks with this installer.</summary>
    NobodyKnowsHow,

    /// <summary>The time was over.</summary>
    TimeOver,
}

/// <summary>What the two starts of a whole way brought.</summary>
/// <param name="MediumText">What came down the serial line while it was started from the medium.</param>
/// <param name="MediumFirmware">What the firmware said then.</param>
/// <param name="DriveText">The same after the restart; null where it never came to that.</param>
/// <param name="DriveFirmware">What the firmware said then.</param>
/// <param name="Unanswered">A question that nobody wrote down an answer for.</param>
/// <param name="OutOfTime">Whether the time was over.</param>
public sealed record WholeWayStarts(
    string MediumText,
    string MediumFirmware,
    string? DriveText,
    string? DriveFirmware,
    string? Unanswered = null,
    bool OutOfTime = false
);

/// <summary>How far a whole way came.</summary>
/// <param name="Reached">The highest rung that was reached; null where not even the medium was started.</param>
/// <param name="StopsAt">The rung where it stopped; null where it came to its end.</param>
/// <param name="Stop">Why; null where it came to its end.</param>
/// <param name="Why">The same in a sentence.</param>
/// <param name="LetIn">Whether the installer let the machine in.</param>
/// <param name="Installed">Whether it was installed.</param>
/// <param name="StartedFromDrive">Whether the installed system started from the drive, without the medium.</param>
public sealed record WholeWayFound(
    Rung? Reached,
    Rung? StopsAt,
    WholeWayStop? Stop,
    string Why,
    bool LetIn,
    bool Installed,
    bool StartedFromDrive
)
{
    /// <summary>Judges what came of the two starts.</summary>
    /// <param name="starts">The starts.</param>
    /// <param name="says">What the installer says; null where nobody knows.</param>
    /// <param name="talk">How one talks with it; null where nobody wrote it down.</param>
    public static WholeWayFound Judge(WholeWayStarts starts, InstallerWords? says, InstallerTalk? talk)
    {
        var medium = TwinVerdict.Judge(starts.MediumText, starts.MediumFirmware, says);
        if (medium.Verdict == "nothing")
            return TwinVerdict.SignatureRefused(starts.MediumText)
                ? Stops(
                    null,
                    Rung.Firmware,
                    WholeWayStop.NotSigned,
                    "Secure Boot is on, and the loader of the medium carries no signature that this firmware knows."
                )
                : Stops(null, Rung.Medium, WholeWayStop.MediumNotStarted, medium.Why);
        if (medium.Verdict == "refused")
            return
                medium.Why.Contains("cannot run here", StringComparison.Ordinal)
                || starts.MediumText.Contains("cannot run here", StringComparison.Ordinal)
                ? Stops(
                    Rung.Medium,
                    Rung.Kernel,
                    WholeWayStop.Processor,
                    Line(starts.MediumText, "cannot run here") ?? medium.Why
                )
                : Stops(Rung.Medium, Rung.Setup, WholeWayStop.Refused, medium.Why);
        if (medium.Verdict == "loader")
            return talk is null
                ? Stops(
                    Rung.Medium,
                    Rung.Setup,
                    WholeWayStop.NobodyKnowsHow,
                    "Its loader started. Nobody wrote down what this installer says or asks, so the twin is left there: look at its screen."
                )
                : Stops(
                    Rung.Medium,
                    Rung.Setup,
                    WholeWayStop.Silent,
                    "Its loader started, and the installer said neither yes nor no. A medium that was not written whole does that."
                );
        if (talk is null)
            return Stops(
                Rung.Setup,
                Rung.Disk,
                WholeWayStop.NobodyKnowsHow,
                "The installer lets the machine in. Nobody wrote down how one talks with it, so the twin is left there.",
                letIn: true
            );
        var installed = starts.MediumText.Contains(talk.Installed, StringComparison.Ordinal);
        if (!installed)
            return NotInstalled(starts, talk);
        if (starts.DriveText is not { } drive)
            return Stops(
                Rung.Disk,
                Rung.Disk,
                WholeWayStop.TimeOver,
                "Installed, and the time was over before it restarted.",
                letIn: true,
                installed: true
            );
        if (drive.Contains(talk.FromDrive, StringComparison.Ordinal))
        {
            if (drive.Contains(talk.Probed, StringComparison.Ordinal))
                return new WholeWayFound(
                    Rung.Use,
                    null,
                    null,
                    "Installed, started from its drive without the medium, and read by the probe. Updates and the person’s own programs are not shown: the twin has no network.",
                    true,
                    true,
                    true
                );
            return Stops(
                Rung.Kernel,
                Rung.Devices,
                starts.Unanswered is null ? WholeWayStop.NotProbed : WholeWayStop.Unanswered,
                starts.Unanswered is { } open
                    ? $"It started from its drive, and asks “{open}”: nobody wrote down what is typed there."
                    : "It started from its drive; the probe did not come to its end.",
                letIn: true,
                installed: true,
                fromDrive: true
            );
        }
        var second = TwinVerdict.Judge(drive, starts.DriveFirmware ?? "", null);
        // A boot sector with a table and no loader is started too, and says nothing ever.
        if (second.Verdict == "nothing" || string.IsNullOrWhiteSpace(drive))
            return Stops(
                Rung.Setup,
                Rung.Disk,
                WholeWayStop.DriveNotStarted,
                "Installed, and then the firmware found nothing on the drive that it starts: the loader lies on the medium, or beyond what it reads.",
                letIn: true,
                installed: true
            );
        return
            drive.Contains("own drive is not there", StringComparison.Ordinal)
            || drive.Contains("starting from the drive", StringComparison.Ordinal)
            ? Stops(
                Rung.Disk,
                drive.Contains("own drive is not there", StringComparison.Ordinal) ? Rung.Devices : Rung.Kernel,
                WholeWayStop.SystemNotStarted,
                Line(drive, "own drive is not there") is { } why
                    ? $"The loader on the drive started its kernel, and that sees no drive: {why}"
                    : "The loader on the drive ran, and the system did not come up.",
                letIn: true,
                installed: true
            )
            : Stops(
                Rung.Setup,
                Rung.Disk,
                WholeWayStop.OtherSystem,
                Line(drive, "") is { } first
                    ? $"Installed, and then something else started: “{first}”. Another drive comes first."
                    : "Installed, and then something else started: another drive comes first.",
                letIn: true,
                installed: true
            );
    }

    private static WholeWayFound NotInstalled(WholeWayStarts starts, InstallerTalk talk)
    {
        if (starts.Unanswered is { } question)
            return Stops(
                Rung.Setup,
                Rung.Setup,
                WholeWayStop.Unanswered,
                $"The installer asks “{question}”, and nobody wrote down what is typed there.",
                letIn: true
            );
        if (Line(starts.MediumText, talk.Stops) is null && LoaderError(starts.MediumText) is { } error)
            return Stops(
                Rung.Medium,
                Rung.Medium,
                WholeWayStop.Copying,
                $"Its loader cannot read what stands on the medium: {error}",
                letIn: true
            );
        if (Line(starts.MediumText, talk.Stops) is not { } line)
            return Stops(
                Rung.Setup,
                Rung.Kernel,
                starts.OutOfTime ? WholeWayStop.TimeOver : WholeWayStop.Silent,
                "The installer let the machine in, and did not come to its end within the time.",
                letIn: true
            );
        var reason = line[(line.IndexOf(talk.Stops, StringComparison.Ordinal) + talk.Stops.Length)..].Trim();
        bool Says(string words) => reason.Contains(words, StringComparison.Ordinal);
        var (rung, stop) =
            Says("no drive is seen") ? (Rung.Devices, WholeWayStop.NoDrive)
            : Says("copying fails: what came") || Says("copying fails: a file of the medium") || Says("medium that")
                ? (Rung.Medium, WholeWayStop.Copying)
            : Says("copying fails") ? (Rung.Disk, WholeWayStop.Copying)
            : Says("loader") ? (Rung.Disk, WholeWayStop.NoLoaderPlace)
            : Says("divided") || Says("file system") || Says("mounted") ? (Rung.Disk, WholeWayStop.NotDivided)
            : (Rung.Setup, WholeWayStop.Stopped);
        return Stops(
            rung == Rung.Medium ? Rung.Medium : Rung.Setup,
            rung,
            stop,
            $"The installer stops: {reason}",
            letIn: true
        );
    }

    /// <summary>
    /// What a loader says of a file that it cannot read or use, or a kernel of its archive; null where it says nothing of the kind.
    /// Graphics that it does not find are no fault.
    /// </summary>
    public static string? LoaderError(string text) =>
        text.Split('\n')
            .Select(l => l.Trim())
            .FirstOrDefault(l =>
                (
                    l.StartsWith("error: ", StringComparison.Ordinal)
                    && !l.Contains("video mode", StringComparison.Ordinal)
                ) || l.Contains("Kernel panic", StringComparison.Ordinal)
            );

    /// <summary>The cause as the fault finder calls it; null where it came to its end, or nobody could tell.</summary>
    public string? Cause =>
        Stop switch
        {
            WholeWayStop.MediumNotStarted => "wrong-scheme",
            WholeWayStop.NotSigned => "loader-not-signed",
            WholeWayStop.Refused when Why.Contains("by legacy BIOS, not by UEFI", StringComparison.Ordinal) =>
                "wrong-entry",
            WholeWayStop.Refused when Why.Contains("the model (", StringComparison.Ordinal) => "identity-wrong",
            WholeWayStop.Refused
                when Why.Contains("TPM", StringComparison.Ordinal)
                    && !Why.Contains("the processor (", StringComparison.Ordinal) => "gate-tpm",
            WholeWayStop.Refused => "gate-checked",
            WholeWayStop.Processor => "word-size",
            WholeWayStop.NoDrive => "no-storage-driver",
            WholeWayStop.Copying when StopsAt == Rung.Medium => "write-incomplete",
            WholeWayStop.Copying or WholeWayStop.NotDivided => "no-room",
            WholeWayStop.NoLoaderPlace => "no-loader-place",
            WholeWayStop.DriveNotStarted => "loader-on-medium",
            WholeWayStop.OtherSystem => "other-drive-first",
            WholeWayStop.SystemNotStarted when StopsAt == Rung.Devices => "no-storage-driver",
            WholeWayStop.Capped => "memory-cap",
            _ => null,
        };

    private static WholeWayFound Stops(
        Rung? reached,
        Rung at,
        WholeWayStop stop,
        string why,
        bool letIn = false,
        bool installed = false,
        bool fromDrive = false
    ) => new(reached, at, stop, why, letIn, installed, fromDrive);

    private static string? Line(string text, string says) =>
        text.Split('\n')
            .Select(l => l.Trim())
            .FirstOrDefault(l => l.Length > 0 && l.Contains(says, StringComparison.Ordinal));
}
