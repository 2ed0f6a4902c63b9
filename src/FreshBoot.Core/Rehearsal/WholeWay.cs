using System.Text.Json.Serialization;
using FreshBoot.Core.Catalogue;

namespace FreshBoot.Core.Rehearsal;

/// <summary>How a whole way in the twin stopped; why it did is a cause of the catalogue.</summary>
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

    /// <summary>A file of the medium cannot be read.</summary>
    NotRead,

    /// <summary>The installer stopped for a reason of its own.</summary>
    Stopped,

    /// <summary>It asks something that nobody wrote down an answer for.</summary>
    Unanswered,

    /// <summary>Installed, and then nothing on its drive starts.</summary>
    DriveNotStarted,

    /// <summary>Another system started in its place.</summary>
    OtherSystem,

    /// <summary>The loader on the drive ran, and the system did not start.</summary>
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
/// <param name="LimitMinutes">How long it might take.</param>
public sealed record WholeWayStarts(
    string MediumText,
    string MediumFirmware,
    string? DriveText,
    string? DriveFirmware,
    string? Unanswered = null,
    bool OutOfTime = false,
    double LimitMinutes = 0
)
{
    /// <summary>
    /// Where the time ran out: a way that was still going on, on a computer that may have been busy, says nothing of the machine.
    /// </summary>
    internal string NotEnded =>
        $"Not ended within {LimitMinutes:0.#} min; it was still going on"
        + (
            WholeWayFound.LastLine(DriveText is { Length: > 0 } ? DriveText : MediumText) is { Length: > 0 } line
                ? $" at “{line}”."
                : ": nothing had been said yet."
        )
        + " Give it more time.";
}

/// <summary>How far a whole way came.</summary>
/// <param name="Reached">The highest rung that was reached; null where not even the medium was started.</param>
/// <param name="StopsAt">The rung where it stopped; null where it came to its end.</param>
/// <param name="Stop">Why; null where it came to its end.</param>
/// <param name="Why">The same in a sentence.</param>
/// <param name="LetIn">Whether the installer let the machine in.</param>
/// <param name="Installed">Whether it was installed.</param>
/// <param name="StartedFromDrive">Whether the installed system started from the drive, without the medium.</param>
/// <param name="Cause">The cause as the catalogue, and so the fault finder, calls it; null where nobody could tell.</param>
public sealed record WholeWayFound(
    Rung? Reached,
    Rung? StopsAt,
    WholeWayStop? Stop,
    string Why,
    bool LetIn,
    bool Installed,
    bool StartedFromDrive,
    string? Cause = null
)
{
    /// <summary>Judges what came of the two starts.</summary>
    /// <param name="starts">The starts.</param>
    /// <param name="says">What the installer says; null where nobody knows.</param>
    /// <param name="talk">How one talks with it; null where nobody wrote it down.</param>
    /// <param name="causes">The causes of the catalogue: what a machine prints is held against the messages that they know.</param>
    public static WholeWayFound Judge(
        WholeWayStarts starts,
        InstallerWords? says,
        InstallerTalk? talk,
        IReadOnlyList<CauseEntry> causes
    )
    {
        var medium = TwinVerdict.Judge(starts.MediumText, starts.MediumFirmware, says);
        if (
            medium.Verdict == "nothing"
            && starts.OutOfTime
            && !TwinVerdict.FoundNothing(starts.MediumText, starts.MediumFirmware)
        )
            return Stops(null, Rung.Medium, WholeWayStop.TimeOver, starts.NotEnded);
        if (medium.Verdict == "nothing")
            return TwinVerdict.SignatureRefused(starts.MediumText)
                ? Stops(
                    null,
                    Rung.Firmware,
                    WholeWayStop.NotSigned,
                    "Secure Boot is on, and the loader of the medium carries no signature that this firmware knows."
                ) with
                {
                    Cause = "loader-not-signed",
                }
                : Stops(null, Rung.Medium, WholeWayStop.MediumNotStarted, medium.Why) with
                {
                    Cause = "wrong-scheme",
                };
        if (medium.Verdict == "refused")
        {
            // It is the installer that refuses, whatever for; but what the kernel cannot run on no patch of it lifts.
            var cause = CauseOf(starts.MediumText, causes);
            return Stops(
                Rung.Medium,
                cause?.Rung == Rung.Kernel ? Rung.Kernel : Rung.Setup,
                WholeWayStop.Refused,
                medium.Why
            ) with
            {
                Cause = cause?.Id,
            };
        }
        if (medium.Verdict == "loader")
            return talk is null
                    ? Stops(
                        Rung.Medium,
                        Rung.Setup,
                        WholeWayStop.NobodyKnowsHow,
                        "Its loader started. Nobody wrote down what this installer says or asks, so the twin is left there: look at its screen."
                    )
                : starts.OutOfTime ? Stops(Rung.Medium, Rung.Setup, WholeWayStop.TimeOver, starts.NotEnded)
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
                "The installer accepts the machine. Nobody wrote down how one talks with it, so the twin is left there.",
                letIn: true
            );
        var installed = starts.MediumText.Contains(talk.Installed, StringComparison.Ordinal);
        if (!installed)
            return NotInstalled(starts, talk, causes);
        if (starts.DriveText is not { } drive)
            return Stops(
                Rung.Disk,
                Rung.Disk,
                WholeWayStop.TimeOver,
                $"Installed, and then: {starts.NotEnded}",
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
            if (starts is { Unanswered: null, OutOfTime: true })
                return Stops(
                    Rung.Kernel,
                    Rung.Devices,
                    WholeWayStop.TimeOver,
                    $"It started from its drive. {starts.NotEnded}",
                    letIn: true,
                    installed: true,
                    fromDrive: true
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
        if (starts.OutOfTime && !TwinVerdict.FoundNothing(drive, starts.DriveFirmware ?? ""))
            return Stops(
                Rung.Setup,
                Rung.Disk,
                WholeWayStop.TimeOver,
                $"Installed, and then: {starts.NotEnded}",
                letIn: true,
                installed: true
            );
        // A boot sector with a table and no loader is started too, and says nothing ever.
        if (second.Verdict == "nothing" || string.IsNullOrWhiteSpace(drive))
            return Stops(
                Rung.Setup,
                Rung.Disk,
                WholeWayStop.DriveNotStarted,
                "Installed, and then the firmware found nothing on the drive that it starts: the loader lies on the medium, or beyond what it reads.",
                letIn: true,
                installed: true
            ) with
            {
                Cause = "loader-on-medium",
            };
        // The loader of the drive names the system; another one names another, or nothing.
        if (drive.Contains(talk.Loader, StringComparison.Ordinal))
        {
            var cause = CauseOf(drive, causes);
            return Stops(
                Rung.Disk,
                cause?.Rung ?? Rung.Kernel,
                WholeWayStop.SystemNotStarted,
                $"The loader on the drive ran, and the system did not start. The last that it said: {LastLine(drive)}",
                letIn: true,
                installed: true
            ) with
            {
                Cause = cause?.Id,
            };
        }
        return Stops(
            Rung.Setup,
            Rung.Disk,
            WholeWayStop.OtherSystem,
            $"Installed, and then something else started: “{LastLine(drive)}”. Another drive comes first.",
            letIn: true,
            installed: true
        ) with
        {
            Cause = "other-drive-first",
        };
    }

    private static WholeWayFound NotInstalled(
        WholeWayStarts starts,
        InstallerTalk talk,
        IReadOnlyList<CauseEntry> causes
    )
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
                WholeWayStop.NotRead,
                $"Its loader cannot read what stands on the medium: {error}",
                letIn: true
            ) with
            {
                Cause = "write-incomplete",
            };
        if (Line(starts.MediumText, talk.Stops) is not { } line)
            return Stops(
                Rung.Setup,
                Rung.Kernel,
                starts.OutOfTime ? WholeWayStop.TimeOver : WholeWayStop.Silent,
                starts.OutOfTime
                    ? starts.NotEnded
                    : "The installer accepted the machine, and ended without a word of how it went.",
                letIn: true
            );
        var reason = line[(line.IndexOf(talk.Stops, StringComparison.Ordinal) + talk.Stops.Length)..].Trim();
        var cause = CauseOf(reason, causes);
        var rung = cause?.Rung ?? Rung.Setup;
        return Stops(
            rung < Rung.Setup ? rung : Rung.Setup,
            rung,
            WholeWayStop.Stopped,
            $"The installer stops: {reason}",
            letIn: true
        ) with
        {
            Cause = cause?.Id,
        };
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

    /// <summary>The same way, whose installed system is not as it was planned.</summary>
    /// <param name="line">What should be so.</param>
    /// <param name="says">What was found instead.</param>
    /// <param name="capped">Whether it is memory that is missing.</param>
    public WholeWayFound NotAsPlanned(string line, string says, bool capped) =>
        this with
        {
            Reached = Rung.Devices,
            StopsAt = capped ? Rung.Kernel : Rung.Use,
            Stop = capped ? WholeWayStop.Capped : WholeWayStop.NotAsPlanned,
            Why = $"Installed and started from its drive, and not as planned: {line}: {says}.",
            Cause = capped ? "memory-cap" : null,
        };

    /// <summary>The cause that the messages in a text speak for most; null where they speak for none.</summary>
    private static CauseEntry? CauseOf(string text, IReadOnlyList<CauseEntry> causes) =>
        causes
            .Select(c =>
                (
                    Cause: c,
                    Times: c.Says.Where(s => text.Contains(s.Text, StringComparison.OrdinalIgnoreCase))
                        .Select(s => s.Times)
                        .DefaultIfEmpty()
                        .Max()
                )
            )
            .Where(c => c.Times > 0)
            .OrderByDescending(c => c.Times)
            .Select(c => c.Cause)
            .FirstOrDefault();

    private static WholeWayFound Stops(
        Rung? reached,
        Rung at,
        WholeWayStop stop,
        string why,
        bool letIn = false,
        bool installed = false,
        bool fromDrive = false
    ) => new(reached, at, stop, why, letIn, installed, fromDrive);

    /// <summary>The last line of a text that says something; empty for none.</summary>
    public static string LastLine(string text) =>
        text.Split('\n').Select(l => l.Trim()).LastOrDefault(l => l.Length > 0) ?? "";

    private static string? Line(string text, string says) =>
        text.Split('\n')
            .Select(l => l.Trim())
            .FirstOrDefault(l => l.Length > 0 && l.Contains(says, StringComparison.Ordinal));
}
