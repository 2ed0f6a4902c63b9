using System.Globalization;
using System.Net.Sockets;
using System.Security.Cryptography;
using System.Text;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Rehearsal;

namespace FreshBoot.Workshop.Emulation;

/// <summary>A drive of the twin.</summary>
/// <param name="Path">Its file, which is written to; null for an empty one that is made for this way and forgotten after it.</param>
/// <param name="SizeBytes">Its size.</param>
/// <param name="Serial">Its serial number.</param>
public sealed record TwinDrive(string? Path, long SizeBytes, string Serial);

/// <summary>A twin with all that a whole way needs.</summary>
/// <param name="Machine">The machine.</param>
/// <param name="Medium">Path of what it is started from.</param>
/// <param name="Form">What that is plugged in as.</param>
/// <param name="Drives">Its drives, in the order in which its firmware starts them.</param>
/// <param name="SecureBoot">Whether Secure Boot is on.</param>
/// <param name="Tpm">Version of its TPM, <c>2.0</c> or <c>1.2</c>; null for none.</param>
/// <param name="MediumStays">Whether the medium stays in at the restart, as a loader that lies on it wants.</param>
public sealed record WholeWaySetUp(
    TwinMachine Machine,
    string Medium,
    TwinForm Form,
    IReadOnlyList<TwinDrive> Drives,
    bool SecureBoot,
    string? Tpm,
    bool MediumStays
)
{
    /// <summary>What has to say so before the installer starts, such as a boot kit; null for nothing.</summary>
    public FirstSays? First { get; init; }

    /// <summary>The system that is upgraded in place, put on the empty drive first; null for a clean installation.</summary>
    public OutgoingSystem? Upgrades { get; init; }
}

/// <summary>What starts before the installer.</summary>
/// <param name="Name">What it is, with its article.</param>
/// <param name="Says">What it says when it hands over.</param>
public sealed record FirstSays(string Name, string Says);

/// <summary>The system that a machine comes with, for a twin that is to be upgraded in place.</summary>
/// <param name="Machine">The machine as it is today, before the sheet changes anything of it.</param>
/// <param name="Medium">Path of an image that installs it.</param>
/// <param name="Name">What it is called.</param>
/// <param name="Says">What its installer says.</param>
/// <param name="Talk">How one talks with it.</param>
/// <param name="Upgrade">How an upgrade is begun in it.</param>
/// <param name="Tpm">Version of the TPM that it sees today, <c>2.0</c> or <c>1.2</c>; null for none.</param>
public sealed record OutgoingSystem(
    TwinMachine Machine,
    string Medium,
    string Name,
    InstallerWords Says,
    InstallerTalk Talk,
    UpgradeTalk Upgrade,
    string? Tpm
)
{
    /// <summary>Whether the table of its drive is turned from MBR to GPT before the machine starts by UEFI.</summary>
    public bool TurnsTable { get; init; }
}

/// <summary>A picture of a whole way.</summary>
/// <param name="File">Name of the file.</param>
/// <param name="Says">What it shows.</param>
public sealed record WholeWayScreen(string File, string Says);

/// <summary>What came of a whole way.</summary>
/// <param name="Found">How far it came.</param>
/// <param name="Text">What came down the serial line, both starts.</param>
/// <param name="Screens">Pictures, in order.</param>
/// <param name="Typed">What was asked, and what was typed.</param>
/// <param name="Bundle">The second probe; null where it never ran.</param>
/// <param name="Seconds">How long it took.</param>
public sealed record WholeWayRun(
    WholeWayFound Found,
    string Text,
    IReadOnlyList<WholeWayScreen> Screens,
    IReadOnlyList<DialogueLine> Typed,
    byte[]? Bundle,
    double Seconds
);

/// <summary>
/// Walks a whole installation in the twin: from the medium through the installer's questions to the restart, from the drive
/// without the medium, and to the second probe. No network; a time limit of its own; the medium is never written to; and the
/// emulator ends with whoever asked.
/// </summary>
public static class WholeWay
{
    private const int MostScreens = 24;
    private const long MostBundleBytes = 4 << 20;

    /// <summary>Whether this computer can give a twin a TPM.</summary>
    public static bool KnowsTpm => Programs.Has("swtpm");

    /// <summary>Walks it.</summary>
    /// <param name="setUp">The twin.</param>
    /// <param name="says">What the installer says; null where nobody knows.</param>
    /// <param name="talk">How one talks with it; null where nobody wrote it down.</param>
    /// <param name="causes">The causes of the catalogue, with the messages that they know.</param>
    /// <param name="fill">What is typed of the plan.</param>
    /// <param name="folder">An empty folder for pictures.</param>
    /// <param name="workFolder">A folder for work under way.</param>
    /// <param name="limit">How long it may take.</param>
    /// <param name="seen">Told of each new picture, and how far it is, 0 to 1.</param>
    /// <param name="stop">Stops it.</param>
    /// <exception cref="RefusedException">The emulator would not start.</exception>
    public static async Task<WholeWayRun> WalkAsync(
        WholeWaySetUp setUp,
        InstallerWords? says,
        InstallerTalk? talk,
        IReadOnlyList<CauseEntry> causes,
        DialogueFill fill,
        string folder,
        string workFolder,
        TimeSpan limit,
        Action<double, IReadOnlyList<WholeWayScreen>> seen,
        CancellationToken stop
    )
    {
        var work = WorkFolder.Make(workFolder);
        try
        {
            var walk = new Walk(setUp, says, talk, causes, fill, folder, work, DateTime.UtcNow + limit, seen);
            return await walk.GoAsync(stop);
        }
        finally
        {
            Directory.Delete(work, recursive: true);
        }
    }

    private sealed class Walk(
        WholeWaySetUp setUp,
        InstallerWords? says,
        InstallerTalk? talk,
        IReadOnlyList<CauseEntry> causes,
        DialogueFill fill,
        string folder,
        string work,
        DateTime until,
        Action<double, IReadOnlyList<WholeWayScreen>> seen
    )
    {
        private readonly List<WholeWayScreen> _screens = [];
        private readonly List<DialogueLine> _typed = [];
        private InstallerDialogue? _dialogue;
        private string? _last;
        private DateTime? _mute;
        private int _length;
        private DateTime _still = DateTime.UtcNow;

        /// <summary>How long a boot sector may say nothing before it is taken for one without a loader.</summary>
        private static readonly TimeSpan Mute = TimeSpan.FromSeconds(60);

        public async Task<WholeWayRun> GoAsync(CancellationToken stop)
        {
            var begun = DateTime.UtcNow;
            for (var i = 0; i < setUp.Drives.Count; i++)
                if (setUp.Drives[i].Path is null)
                    using (var drive = new FileStream(DriveFile(i), FileMode.CreateNew))
                    {
                        drive.SetLength(setUp.Drives[i].SizeBytes);
                        if (i > 0)
                            foreach (var at in MarkedAt(drive.Length))
                            {
                                drive.Position = at;
                                drive.Write(Mark(i));
                            }
                    }
            var planned = new Starts("medium", setUp.Machine, setUp.Medium, MediumFirst: true, says, talk, setUp.Tpm);
            if (setUp.Upgrades is { } old)
                await PutAsync(old, stop);
            var (text, firmware) = setUp.Upgrades is { } outgoing
                ? await UpgradeAsync(planned, outgoing, stop)
                : await StartAsync(planned, Dialogue(talk), stop);
            string? driveText = null;
            string? driveFirmware = null;
            var installed =
                talk is not null && text.Contains(talk.Installed, StringComparison.Ordinal) && DateTime.UtcNow < until;
            if (installed)
                (driveText, driveFirmware) = await StartAsync(
                    planned with
                    {
                        Name = "drive",
                        Medium = setUp.MediumStays ? setUp.Medium : null,
                        MediumFirst = false,
                    },
                    setUp.Upgrades is not null && talk!.Upgrade is { } after
                        ? Dialogue(talk, after.Prompt, after.Look, talk.Typed[after.Prompt])
                        : Dialogue(talk),
                    stop
                );
            var found = WholeWayFound.Judge(
                new WholeWayStarts(
                    text,
                    firmware,
                    driveText,
                    driveFirmware,
                    _dialogue?.Unanswered,
                    DateTime.UtcNow >= until,
                    (until - begun).TotalMinutes
                ),
                says,
                talk,
                causes
            );
            if (installed && setUp.Drives.Count > 1)
                found = Touched() is { } touched
                    ? found.NotAsPlanned(
                        "The other drives stay as they are",
                        $"drive {touched + 1} was written to",
                        capped: false
                    )
                    : found with
                    {
                        Why =
                            $"{found.Why} Compared: at its beginning and its end {(setUp.Drives.Count == 2 ? "the other drive is" : "each other drive is")} as it was.",
                    };
            if (
                setUp.First is { } before
                && found.StopsAt is null
                && !text.Contains(before.Says, StringComparison.Ordinal)
            )
                found = found.NotAsPlanned(
                    $"The installer is started by {before.Name}",
                    "it started, and nothing came of what starts it",
                    capped: false
                );
            if (setUp.Upgrades is { } was && found.StopsAt is null)
                found =
                    talk!.Upgrade is { } kept && driveText!.Contains(fill.In(kept.Kept), StringComparison.Ordinal)
                        ? found with
                        {
                            Why =
                                $"Upgraded inside {was.Name}, restarted, and read by the probe; a file that was put there before came through as it was. Updates and the person’s own programs are not shown: the twin has no network.",
                        }
                        : found.NotAsPlanned(
                            "What was on it is kept",
                            "the file that was put there before is gone or changed",
                            capped: false
                        );
            return new WholeWayRun(
                found,
                driveText is null
                    ? text
                    : $"{text}\n— restart, {(setUp.MediumStays ? "the medium stays" : "the medium is out")} —\n{driveText}",
                _screens,
                _typed,
                Bundle(),
                (DateTime.UtcNow - begun).TotalSeconds
            );
        }

        private InstallerDialogue? Dialogue(InstallerTalk? with, string? prompt = null, params string[] words) =>
            with is null ? null : new InstallerDialogue(with, fill, prompt, words);

        /// <summary>Puts the outgoing system on the empty drive, with a file of a person, and switches the machine off.</summary>
        /// <exception cref="RefusedException">It did not come up: nothing was seen of the upgrade.</exception>
        private async Task PutAsync(OutgoingSystem old, CancellationToken stop)
        {
            var start = new Starts(
                "old-medium",
                old.Machine,
                old.Medium,
                MediumFirst: true,
                old.Says,
                old.Talk,
                old.Tpm
            );
            var (text, _) = await StartAsync(start, Dialogue(old.Talk), stop);
            if (text.Contains(old.Talk.Installed, StringComparison.Ordinal))
                (text, _) = await StartAsync(
                    start with
                    {
                        Name = "old-drive",
                        Medium = null,
                    },
                    old is { TurnsTable: true, Upgrade.Turn: { } turn }
                        ? Dialogue(old.Talk, old.Upgrade.Prompt, old.Upgrade.Keep, turn, old.Upgrade.Off)
                        : Dialogue(old.Talk, old.Upgrade.Prompt, old.Upgrade.Keep, old.Upgrade.Off),
                    stop
                );
            if (
                old is { TurnsTable: true, Upgrade.Turned: { } turned }
                && text.Contains(old.Talk.Ready, StringComparison.Ordinal)
                && !text.Contains(turned, StringComparison.Ordinal)
            )
                throw new RefusedException(
                    RefusalKind.Conflict,
                    $"{old.Name} did not turn the table of the twin’s drive, so nothing was seen of the upgrade. The last that came: {WholeWayFound.LastLine(text)}",
                    "storage.0.table",
                    "A clean installation, or the calculated rehearsal."
                );
            if (!text.Contains(old.Talk.Ready, StringComparison.Ordinal))
                throw new RefusedException(
                    RefusalKind.Conflict,
                    $"The twin could not be given {old.Name}, so nothing was seen of the upgrade. The last that came: {WholeWayFound.LastLine(text)}",
                    "os.name",
                    "Another image of the system that is on the machine, or more time."
                );
        }

        /// <summary>Begins the upgrade in the running system, and follows it through its restart.</summary>
        private async Task<(string Text, string Firmware)> UpgradeAsync(
            Starts planned,
            OutgoingSystem old,
            CancellationToken stop
        )
        {
            // The firmware starts the drive; the medium lies in the machine and is opened by the system that runs.
            var inside = planned with
            {
                Name = "inside",
                MediumFirst = false,
            };
            var (text, firmware) = await StartAsync(
                inside,
                Dialogue(old.Talk, old.Upgrade.Prompt, old.Upgrade.Begin),
                stop
            );
            if (says is null || !text.Contains(says.LetsIn, StringComparison.Ordinal) || DateTime.UtcNow >= until)
                return (text, firmware);
            var (more, _) = await StartAsync(planned with { Name = "over", MediumFirst = false }, Dialogue(talk), stop);
            return ($"{text}\n— it restarts by itself —\n{more}", firmware);
        }

        /// <summary>One start of the twin.</summary>
        /// <param name="Name">What its files are called.</param>
        /// <param name="Machine">The machine as it is then.</param>
        /// <param name="Medium">Path of the medium in it; null for none.</param>
        /// <param name="MediumFirst">Whether the firmware starts the medium.</param>
        /// <param name="Says">What the installer says.</param>
        /// <param name="Talk">How one talks with what runs then.</param>
        /// <param name="Tpm">Version of its TPM.</param>
        private sealed record Starts(
            string Name,
            TwinMachine Machine,
            string? Medium,
            bool MediumFirst,
            InstallerWords? Says,
            InstallerTalk? Talk,
            string? Tpm
        )
        {
            /// <summary>Whether it is the start that the way is about: the installed system, from the drive.</summary>
            public bool IsLast => Name == "drive";

            /// <summary>What a picture of it is called.</summary>
            public string Titled =>
                Name switch
                {
                    "old-medium" => "The system that it comes with, from its medium",
                    "old-drive" => "The system that it comes with",
                    "inside" => "In the running system",
                    "over" => "The upgrade goes on",
                    "medium" => "From the medium",
                    _ => "From the drive",
                };

            /// <summary>How far the whole way is when this start begins, 0 to 1.</summary>
            public double Part =>
                Name switch
                {
                    "old-medium" => 0.05,
                    "old-drive" => 0.25,
                    "inside" => 0.4,
                    "over" => 0.55,
                    "medium" => 0.1,
                    _ => 0.55,
                };
        }

        private const int MarkBytes = 64 << 10;

        /// <summary>Where the other drives carry a mark: where a table, a loader or a second table would be written.</summary>
        private static long[] MarkedAt(long sizeBytes) => [0, sizeBytes - MarkBytes];

        /// <summary>What the other drives of the twin hold: something that no table and no file system is.</summary>
        private byte[] Mark(int index)
        {
            var mark = new byte[MarkBytes];
            var part = SHA256.HashData(Encoding.UTF8.GetBytes($"{setUp.Drives[index].Serial} {index}"));
            for (var i = 0; i < mark.Length; i++)
                mark[i] = part[i % part.Length];
            // Without this signature no firmware takes its first sector for a loader (UEFI 2.10, 5.2.1).
            mark[510] = mark[511] = 0;
            return mark;
        }

        /// <summary>The first of the other drives that is not as it was; null where all are.</summary>
        private int? Touched()
        {
            var found = new byte[MarkBytes];
            for (var i = 1; i < setUp.Drives.Count; i++)
                if (setUp.Drives[i].Path is null)
                    using (var drive = File.OpenRead(DriveFile(i)))
                        foreach (var at in MarkedAt(drive.Length))
                        {
                            drive.Position = at;
                            drive.ReadExactly(found);
                            if (!found.AsSpan().SequenceEqual(Mark(i)))
                                return i;
                        }
            return null;
        }

        private string DriveFile(int index) => setUp.Drives[index].Path ?? Path.Combine(work, $"drive-{index}");

        private async Task<(string Text, string Firmware)> StartAsync(
            Starts start,
            InstallerDialogue? dialogue,
            CancellationToken stop
        )
        {
            _dialogue = dialogue;
            var name = start.Name;
            var line = Path.Combine(work, $"{name}.line");
            var log = Path.Combine(work, $"{name}.serial");
            foreach (var old in new[] { "control", "firmware" })
                File.Delete(Path.Combine(work, old));
            var arguments = Emulator.Common(start.Machine, work, setUp.SecureBoot);
            arguments.AddRange([
                "-chardev",
                $"socket,id=line,path={Emulator.Escaped(line)},server=on,wait=off,logfile={Emulator.Escaped(log)}",
                "-serial",
                "chardev:line",
                "-serial",
                $"file:{Emulator.Escaped(Path.Combine(work, "bundle"))}",
            ]);
            if (start.Medium is { } medium)
                arguments.AddRange(Emulator.Medium(medium, setUp.Form, start.MediumFirst));
            for (var i = 0; i < setUp.Drives.Count; i++)
                arguments.AddRange([
                    "-drive",
                    $"if=none,id=drive{i},format=raw,cache=unsafe,discard=unmap,file={Emulator.Escaped(DriveFile(i))}",
                    "-device",
                    // Each has a port of its own: one takes one drive.
                    $"ide-hd,bus=ide.{i},drive=drive{i},serial={Emulator.Escaped(setUp.Drives[i].Serial)},bootindex={i + 1}",
                ]);
            using var tpm = Tpm(start, arguments);
            using var process = Programs.Start(
                "timeout",
                [
                    "--kill-after=5",
                    Math.Max(5, (int)(until - DateTime.UtcNow).TotalSeconds + 5).ToString(CultureInfo.InvariantCulture),
                    "qemu-system-x86_64",
                    .. arguments,
                ]
            );
            WorkFolder.Note(work, process);
            var said = new Programs.Tail();
            _ = Programs.ReadAsync(process.StandardOutput, said);
            _ = Programs.ReadAsync(process.StandardError, said);
            try
            {
                using var control =
                    await Emulator.Control.OpenAsync(Path.Combine(work, "control"), process, stop)
                    ?? throw new RefusedException(
                        RefusalKind.Conflict,
                        $"The emulator would not start: {said}",
                        "qemu-system-x86_64",
                        "What it says."
                    );
                using var socket = await SerialAsync(line, process, stop);
                await TalkAsync(start, socket, control, process, stop);
                Emulator.CheckRoom(control, work, folder);
                Emulator.CheckEnd(process, said);
            }
            catch (SocketException) when (process.HasExited)
            {
                Emulator.CheckEnd(process, said);
                throw;
            }
            finally
            {
                _typed.AddRange(dialogue?.Asked ?? []);
                Programs.End(process);
                if (tpm is not null)
                    Programs.End(tpm);
            }
            return (Emulator.Read(work, $"{name}.serial"), Emulator.Read(work, "firmware"));
        }

        private async Task TalkAsync(
            Starts start,
            Socket socket,
            Emulator.Control control,
            System.Diagnostics.Process process,
            CancellationToken stop
        )
        {
            var decoder = Encoding.ASCII.GetDecoder();
            var bytes = new byte[16384];
            var letters = new char[16384];
            var asked = _dialogue?.Asked.Count ?? 0;
            DateTime? over = null;
            DateTime? quiet = null;
            DateTime? alone = null;
            while (DateTime.UtcNow < until && !process.HasExited)
            {
                Emulator.CheckRoom(control, work, folder);
                var came = 0;
                while (socket.Available > 0)
                {
                    var read = await socket.ReceiveAsync(bytes, SocketFlags.None, stop);
                    if (read == 0)
                        break;
                    came += read;
                    var count = decoder.GetChars(bytes, 0, read, letters, 0);
                    foreach (var typed in _dialogue?.Hear(new string(letters, 0, count)) ?? [])
                        await socket.SendAsync(Encoding.ASCII.GetBytes(typed + "\n"), SocketFlags.None, stop);
                }
                if (_dialogue is not null && _dialogue.Asked.Count > asked)
                {
                    asked = _dialogue.Asked.Count;
                    await PictureAsync(control, start, $"asked for “{_dialogue.Asked[^1].Question}”", stop);
                }
                // One that asks nothing is seen once while it works.
                if (start.Name == "over" && came > 0)
                    alone ??= DateTime.UtcNow.AddSeconds(8);
                if (DateTime.UtcNow >= alone)
                {
                    alone = DateTime.MaxValue;
                    await PictureAsync(control, start, "it goes on by itself", stop);
                }
                var ended = Ends(start);
                if (over is null && ended is not null)
                {
                    // The screen is drawn a moment later than the line is sent.
                    over = DateTime.UtcNow.AddMilliseconds(700);
                    await Task.Delay(600, stop);
                    await PictureAsync(control, start, ended, stop);
                }
                if (over is not null && DateTime.UtcNow >= over)
                    return;
                // Nobody wrote down what this installer says: it is left when its screen has stood still for a while.
                if (start.Talk is null)
                {
                    if (came > 0 || quiet is null)
                        quiet = DateTime.UtcNow.AddSeconds(20);
                    if (DateTime.UtcNow >= quiet && Loaded(start.Name))
                    {
                        await PictureAsync(control, start, "as far as it gets", stop);
                        return;
                    }
                }
                await Task.Delay(50, stop);
            }
            if (!process.HasExited)
                await PictureAsync(control, start, "the time was over", stop);
        }

        private bool Loaded(string name) =>
            TwinVerdict.Judge(Emulator.Read(work, $"{name}.serial"), Emulator.Read(work, "firmware"), null).Verdict
            == "loader";

        /// <summary>What ends this start: a refusal, nothing to start, a stop of the installer, or the probe's end.</summary>
        private string? Ends(Starts start)
        {
            var (says, talk) = (start.Says, start.Talk);
            var text = Emulator.Read(work, $"{start.Name}.serial");
            if (TwinVerdict.FoundNothing(text, Emulator.Read(work, "firmware")))
                return "nothing that starts";
            if (
                start.IsLast
                && string.IsNullOrWhiteSpace(text)
                && Emulator.Read(work, "firmware").Contains("Booting from 0", StringComparison.Ordinal)
            )
            {
                _mute ??= DateTime.UtcNow;
                if (DateTime.UtcNow - _mute > Mute)
                    return "a boot sector that says nothing";
            }
            if (says is not null && text.Contains(says.Refuses, StringComparison.Ordinal))
                return "refused";
            if (talk is null)
                return null;
            if (
                says is not null
                && text.IndexOf(says.LetsIn, StringComparison.Ordinal) is var letIn and >= 0
                && WholeWayFound.LoaderError(text[letIn..]) is not null
            )
                return "a file that cannot be read";
            if (text.Contains(talk.Stops, StringComparison.Ordinal))
                return "it stops";
            if (_dialogue!.Unanswered is not null)
                return "a question that nobody answers";
            // A system that comes up no further says so, and nothing more comes then.
            return start.IsLast && _dialogue.Over ? "read by the probe"
                : start.IsLast && StandsStill(text) ? "it starts no further"
                : null;
        }

        /// <summary>
        /// Whether the loader on the drive ran, its system has not come up, and nothing was said for a while after a message of a known
        /// cause. A system that only complains goes on, and is waited for.
        /// </summary>
        private bool StandsStill(string text)
        {
            if (text.Length != _length)
                (_length, _still) = (text.Length, DateTime.UtcNow);
            return DateTime.UtcNow - _still > Mute
                && text.Contains(talk!.Loader, StringComparison.Ordinal)
                && !text.Contains(talk.FromDrive, StringComparison.Ordinal)
                && causes.Any(c => c.Says.Any(s => text.Contains(s.Text, StringComparison.OrdinalIgnoreCase)));
        }

        private async Task PictureAsync(Emulator.Control control, Starts start, string says, CancellationToken stop)
        {
            if (_screens.Count >= MostScreens)
                return;
            if (await Emulator.PictureAsync(control, folder, _screens.Count, _last, stop) is not { } picture)
                return;
            _last = picture.Hash;
            _screens.Add(new WholeWayScreen(picture.Name, $"{start.Titled}: {says}"));
            seen(start.Part + Math.Min(0.4, _screens.Count * 0.04), _screens);
        }

        private static async Task<Socket> SerialAsync(
            string path,
            System.Diagnostics.Process process,
            CancellationToken stop
        )
        {
            while (true)
            {
                var socket = new Socket(AddressFamily.Unix, SocketType.Stream, ProtocolType.Unspecified);
                try
                {
                    await socket.ConnectAsync(new UnixDomainSocketEndPoint(path), stop);
                    return socket;
                }
                catch (SocketException) when (!process.HasExited)
                {
                    socket.Dispose();
                    await Task.Delay(50, stop);
                }
            }
        }

        /// <summary>A software TPM beside the twin; it ends when the emulator lets go of it.</summary>
        private System.Diagnostics.Process? Tpm(Starts start, List<string> arguments)
        {
            if (start.Tpm is not { } version || !KnowsTpm)
                return null;
            var state = Directory.CreateDirectory(Path.Combine(work, "tpm")).FullName;
            var line = Path.Combine(work, $"{start.Name}.tpm");
            var process = Programs.Start(
                "swtpm",
                [
                    "socket",
                    .. version == "2.0" ? ["--tpm2"] : Array.Empty<string>(),
                    "--tpmstate",
                    $"dir={state}",
                    "--ctrl",
                    $"type=unixio,path={line}",
                    "--terminate",
                ]
            );
            for (var i = 0; i < 100 && !File.Exists(line) && !process.HasExited; i++)
                Thread.Sleep(20);
            if (!File.Exists(line))
            {
                process.Dispose();
                return null;
            }
            arguments.AddRange([
                "-chardev",
                $"socket,id=tpm,path={Emulator.Escaped(line)}",
                "-tpmdev",
                "emulator,id=tpm0,chardev=tpm",
                "-device",
                "tpm-tis,tpmdev=tpm0",
            ]);
            return process;
        }

        /// <summary>The bundle between its marks; firmware writes to that line too.</summary>
        private byte[]? Bundle()
        {
            var path = Path.Combine(work, "bundle");
            if (!File.Exists(path) || new FileInfo(path).Length > MostBundleBytes)
                return null;
            var text = File.ReadAllText(path, Encoding.Latin1).Replace("\r", "", StringComparison.Ordinal);
            var begin = text.LastIndexOf("\nBEGIN\n", StringComparison.Ordinal);
            var end = text.LastIndexOf("\nEND\n", StringComparison.Ordinal);
            if (begin < 0 || end <= begin)
                return null;
            try
            {
                return Convert.FromBase64String(text[(begin + 7)..end]);
            }
            catch (FormatException)
            {
                return null;
            }
        }
    }
}
