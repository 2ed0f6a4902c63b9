using System.Globalization;
using System.Net.Sockets;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Rehearsal;

namespace FreshBoot.Workshop.Emulation;

/// <summary>What a start in the emulator brought.</summary>
/// <param name="Verdict">The verdict.</param>
/// <param name="Text">What came down the serial line, made readable.</param>
/// <param name="Screens">Pictures of the screen as PNG files, in order.</param>
/// <param name="Seconds">How long it ran.</param>
public sealed record TwinStart(TwinVerdict Verdict, string Text, IReadOnlyList<string> Screens, double Seconds);

/// <summary>What an image is plugged into the twin as.</summary>
public enum TwinForm
{
    /// <summary>A disc in its disc drive.</summary>
    Disc,

    /// <summary>A stick in a USB port.</summary>
    Stick,

    /// <summary>Its internal drive.</summary>
    Drive,
}

/// <summary>
/// Starts an image in QEMU, set up as the twin of a machine: without a network, with a time limit of its own, never writing to
/// the image, and ended with whoever asked for it.
/// </summary>
public static class Emulator
{
    private const string Program = "qemu-system-x86_64";
    private const int MostScreens = 8;

    /// <summary>What has to be installed before a start by this firmware; null where nothing is missing.</summary>
    public static string? Missing(string firmware)
    {
        if (!Programs.Has(Program))
            return "qemu-system-x86";
        return firmware switch
        {
            "uefi64" => Uefi64 is null ? "ovmf" : null,
            "uefi32" => Uefi32 is null ? "ovmf-ia32" : null,
            _ => null,
        };
    }

    private static (string Code, string Variables)? Uefi64 =>
        First(
            ("/usr/share/OVMF/OVMF_CODE_4M.fd", "/usr/share/OVMF/OVMF_VARS_4M.fd"),
            ("/usr/share/OVMF/OVMF_CODE.fd", "/usr/share/OVMF/OVMF_VARS.fd")
        );

    /// <summary>Firmware with Secure Boot on and the keys in it that most machines come with.</summary>
    private static (string Code, string Variables)? Uefi64Secure =>
        First(
            ("/usr/share/OVMF/OVMF_CODE_4M.secboot.fd", "/usr/share/OVMF/OVMF_VARS_4M.ms.fd"),
            ("/usr/share/OVMF/OVMF_CODE.secboot.fd", "/usr/share/OVMF/OVMF_VARS.ms.fd")
        );

    /// <summary>Whether this computer has firmware for a twin with Secure Boot on.</summary>
    public static bool KnowsSecureBoot => Uefi64Secure is not null;

    private static (string Code, string Variables)? Uefi32 =>
        First(
            ("/usr/share/OVMF/OVMF32_CODE_4M.secboot.fd", "/usr/share/OVMF/OVMF32_VARS_4M.fd"),
            ("/usr/share/OVMF/OVMF32_CODE_4M.fd", "/usr/share/OVMF/OVMF32_VARS_4M.fd")
        );

    private static (string, string)? First(params (string Code, string Variables)[] pairs)
    {
        foreach (var pair in pairs)
            if (File.Exists(pair.Code) && File.Exists(pair.Variables))
                return pair;
        return null;
    }

    /// <summary>Starts an image.</summary>
    /// <param name="image">Path of the image; it is not written to.</param>
    /// <param name="form">What it is plugged in as.</param>
    /// <param name="machine">The machine.</param>
    /// <param name="says">What the installer says; null where nobody knows.</param>
    /// <param name="folder">An empty folder for pictures.</param>
    /// <param name="workFolder">A folder for work under way.</param>
    /// <param name="limit">How long it may run.</param>
    /// <param name="seen">Told of each new picture.</param>
    /// <param name="stop">Stops it.</param>
    /// <exception cref="RefusedException">The emulator is not installed, or would not start.</exception>
    public static async Task<TwinStart> StartAsync(
        string image,
        TwinForm form,
        TwinMachine machine,
        InstallerWords? says,
        string folder,
        string workFolder,
        TimeSpan limit,
        Action<IReadOnlyList<string>> seen,
        CancellationToken stop
    )
    {
        if (Missing(machine.Firmware) is { } package)
            throw new RefusedException(
                RefusalKind.Missing,
                $"Starts by {machine.Firmware} need the Debian package {package}.",
                package,
                $"apt-get install {package}, or ./demo.sh, which does."
            );
        var work = WorkFolder.Make(workFolder);
        try
        {
            var arguments = Arguments(image, form, machine, work);
            // It ends by itself should this server be killed.
            using var process = Programs.Start(
                "timeout",
                [
                    "--kill-after=5",
                    ((int)limit.TotalSeconds + 5).ToString(CultureInfo.InvariantCulture),
                    Program,
                    .. arguments,
                ]
            );
            WorkFolder.Note(work, process);
            var said = new Programs.Tail();
            _ = Programs.ReadAsync(process.StandardOutput, said);
            _ = Programs.ReadAsync(process.StandardError, said);
            var begun = DateTime.UtcNow;
            var screens = new List<string>();
            try
            {
                using var control = await Control.OpenAsync(Path.Combine(work, "control"), process, stop);
                if (control is null)
                    throw new RefusedException(
                        RefusalKind.Conflict,
                        $"The emulator would not start: {said}",
                        Program,
                        "What it says."
                    );
                string? last = null;
                DateTime? loaderSince = null;
                while (DateTime.UtcNow - begun < limit && !process.HasExited)
                {
                    await Task.Delay(300, stop);
                    CheckRoom(control, work, folder);
                    var early =
                        Read(work, "serial") is var soFar
                        && says is not null
                        && (
                            soFar.Contains(says.LetsIn, StringComparison.Ordinal)
                            || soFar.Contains(says.Refuses, StringComparison.Ordinal)
                        );
                    var over =
                        Read(work, "firmware").Contains("No bootable device", StringComparison.Ordinal)
                        || soFar.Contains("No bootable option", StringComparison.Ordinal)
                        || soFar.Contains("UEFI Interactive Shell", StringComparison.Ordinal);
                    if (early || over)
                        // The screen is drawn a moment later than the line is sent.
                        await Task.Delay(700, stop);
                    if (await PictureAsync(control, folder, screens.Count, last, stop) is { } picture)
                    {
                        last = picture.Hash;
                        if (screens.Count < MostScreens)
                            screens.Add(picture.Name);
                        else
                        {
                            // The last one counts: it takes the place of the one before.
                            File.Move(
                                Path.Combine(folder, picture.Name),
                                Path.Combine(folder, screens[^1]),
                                overwrite: true
                            );
                        }
                        seen(screens);
                    }
                    if (early || over)
                        break;
                    // Without words to wait for, a loader that was started is given a few seconds to draw its screen.
                    if (says is null && TwinVerdict.Judge(soFar, Read(work, "firmware"), says).Verdict == "loader")
                    {
                        loaderSince ??= DateTime.UtcNow;
                        if (DateTime.UtcNow - loaderSince > TimeSpan.FromSeconds(4))
                            break;
                    }
                }
                CheckRoom(control, work, folder);
                CheckEnd(process, said);
                var text = Read(work, "serial");
                return new TwinStart(
                    TwinVerdict.Judge(text, Read(work, "firmware"), says),
                    text,
                    screens,
                    (DateTime.UtcNow - begun).TotalSeconds
                );
            }
            finally
            {
                Programs.End(process);
            }
        }
        finally
        {
            Directory.Delete(work, recursive: true);
        }
    }

    /// <summary>What has to stay free beside a start, in bytes: its logs and a picture.</summary>
    private const long LeastRoom = 4 << 20;

    /// <summary>
    /// What an emulator says on a full disk says nothing of the machine: its logs end early, and its drives refuse what is written. No
    /// verdict comes of it.
    /// </summary>
    /// <exception cref="IOException">A disk is full, or was while it ran.</exception>
    internal static void CheckRoom(Control control, params string[] folders)
    {
        if (control.NoSpace || folders.Any(f => new DriveInfo(f).AvailableFreeSpace < LeastRoom))
            throw new IOException("No space left on the disk while the twin ran, which says nothing of the machine.");
    }

    /// <summary>
    /// An emulator that ends by an error of its own says nothing of the machine: no verdict and no cause come of it. It ends with 0
    /// where the machine switches itself off; 124 and 137 are the time limit's.
    /// </summary>
    /// <exception cref="IOException">It ended by an error.</exception>
    internal static void CheckEnd(System.Diagnostics.Process process, Programs.Tail said)
    {
        if (process.HasExited && process.ExitCode is not (0 or 124 or 137))
            throw new IOException(
                $"The emulator failed, which says nothing of the machine: {said.ToString()!.Trim()} (it ended with {process.ExitCode})"
            );
    }

    private static List<string> Arguments(string image, TwinForm form, TwinMachine machine, string work)
    {
        var all = Common(machine, work, secureBoot: false);
        all.AddRange(["-serial", $"file:{Escaped(Path.Combine(work, "serial"))}"]);
        all.AddRange(Medium(image, form, first: true));
        return all;
    }

    /// <summary>A comma in an option is written twice.</summary>
    internal static string Escaped(string text) => text.Replace(",", ",,", StringComparison.Ordinal);

    /// <summary>The port of the machine's six for SATA that a medium hangs on; its drives have those before it.</summary>
    internal const int MediumPort = 5;

    /// <summary>A medium, never written to.</summary>
    internal static IReadOnlyList<string> Medium(string image, TwinForm form, bool first)
    {
        var path = Escaped(image);
        var index = first ? 0 : 9;
        return form switch
        {
            TwinForm.Drive =>
            [
                "-drive",
                $"if=none,id=medium,format=raw,snapshot=on,file.locking=off,file={path}",
                "-device",
                $"ide-hd,bus=ide.{MediumPort},drive=medium,bootindex={index}",
            ],
            TwinForm.Stick =>
            [
                "-device",
                "qemu-xhci",
                "-drive",
                $"if=none,id=medium,format=raw,snapshot=on,file.locking=off,file={path}",
                "-device",
                $"usb-storage,drive=medium,removable=on,bootindex={index}",
            ],
            _ =>
            [
                "-drive",
                $"if=none,id=medium,media=cdrom,format=raw,readonly=on,file.locking=off,file={path}",
                "-device",
                $"ide-cd,bus=ide.{MediumPort},drive=medium,bootindex={index}",
            ],
        };
    }

    /// <summary>What every twin of a machine is told, whatever it starts: no network, and nothing that reaches out.</summary>
    /// <param name="machine">The machine.</param>
    /// <param name="work">A folder for its control line, its logs and the variables of its firmware, which stay between two starts.</param>
    /// <param name="secureBoot">Whether Secure Boot is on.</param>
    internal static List<string> Common(TwinMachine machine, string work, bool secureBoot)
    {
        List<string> all =
        [
            "-machine",
            "q35",
            "-nodefaults",
            "-vga",
            "std",
            "-display",
            "none",
            "-no-reboot",
            "-nic",
            "none",
            "-sandbox",
            "on,obsolete=deny,elevateprivileges=deny,spawn=deny,resourcecontrol=deny",
            "-m",
            machine.MemoryMiB.ToString(CultureInfo.InvariantCulture),
            "-cpu",
            // Its maker (CPUID leaf 0) is the emulator's own: programs that know makers by name find their instructions by it.
            $"max,model-id={machine.Processor}{string.Concat(machine.LacksFlags.Select(f => $",-{NameOf(f)}"))}",
            "-chardev",
            $"file,id=firmware,path={Escaped(Path.Combine(work, "firmware"))}",
            "-device",
            "isa-debugcon,iobase=0x402,chardev=firmware",
            "-qmp",
            $"unix:{Escaped(Path.Combine(work, "control"))},server=on,wait=off",
        ];
        if (machine.Firmware != "bios")
        {
            var (code, variables) =
                machine.Firmware == "uefi32" ? Uefi32!.Value
                : secureBoot ? Uefi64Secure!.Value
                : Uefi64!.Value;
            var own = Path.Combine(work, "variables");
            if (!File.Exists(own))
                File.Copy(variables, own);
            all.AddRange([
                "-drive",
                $"if=pflash,format=raw,readonly=on,file={code}",
                "-drive",
                $"if=pflash,format=raw,file={Escaped(own)}",
            ]);
            if (code.Contains("secboot", StringComparison.Ordinal))
                all.AddRange(["-machine", "smm=on", "-global", "driver=cfi.pflash01,property=secure,value=on"]);
        }
        for (var i = 0; i < machine.Smbios.Count; i++)
        {
            var file = Path.Combine(work, $"smbios-{i}");
            File.WriteAllBytes(file, machine.Smbios[i]);
            all.AddRange(["-smbios", $"file={Escaped(file)}"]);
        }
        return all;
    }

    /// <summary>The emulator's name of a feature where it differs from the kernel's.</summary>
    private static string NameOf(string flag) =>
        flag switch
        {
            "lahf_lm" => "lahf-lm",
            "sse4_1" => "sse4.1",
            "sse4_2" => "sse4.2",
            _ => flag,
        };

    internal static async Task<(string Name, string Hash)?> PictureAsync(
        Control control,
        string folder,
        int number,
        string? last,
        CancellationToken stop
    )
    {
        var name = $"screen-{number}.png";
        var path = Path.Combine(folder, name);
        if (!await control.AskAsync("screendump", new { filename = path, format = "png" }, stop) || !File.Exists(path))
            return null;
        var hash = Convert.ToHexStringLower(SHA256.HashData(await File.ReadAllBytesAsync(path, stop)));
        if (hash != last)
            return (name, hash);
        File.Delete(path);
        return null;
    }

    /// <summary>A log as text: control sequences of terminals (ECMA-48) and control characters are left out.</summary>
    internal static string Read(string work, string name)
    {
        var path = Path.Combine(work, name);
        if (!File.Exists(path))
            return "";
        using var file = new FileStream(path, FileMode.Open, FileAccess.Read, FileShare.ReadWrite);
        var bytes = new byte[Math.Min(file.Length, 1 << 20)];
        var read = file.ReadAtLeast(bytes, bytes.Length, throwOnEndOfStream: false);
        var text = new StringBuilder(read);
        for (var i = 0; i < read; i++)
            if (bytes[i] == 0x1b && i + 1 < read && bytes[i + 1] == '[')
            {
                i += 2;
                while (i < read && bytes[i] is < 0x40 or > 0x7e)
                    i++;
                // A jump to a place begins a line.
                if (i < read && bytes[i] == 'H' && text.Length > 0 && text[^1] != '\n')
                    text.Append('\n');
            }
            else if (bytes[i] == '\n' || bytes[i] is >= 0x20 and < 0x7f)
                text.Append((char)bytes[i]);
        return text.ToString();
    }

    /// <summary>The emulator's control line: one JSON object a line.</summary>
    internal sealed class Control(Socket socket, StreamReader reader, StreamWriter writer) : IDisposable
    {
        public static async Task<Control?> OpenAsync(
            string path,
            System.Diagnostics.Process process,
            CancellationToken stop
        )
        {
            for (var i = 0; i < 100 && !process.HasExited; i++)
            {
                if (File.Exists(path))
                {
                    var socket = new Socket(AddressFamily.Unix, SocketType.Stream, ProtocolType.Unspecified);
                    try
                    {
                        await socket.ConnectAsync(new UnixDomainSocketEndPoint(path), stop);
                        var stream = new NetworkStream(socket, ownsSocket: false);
                        var control = new Control(
                            socket,
                            new StreamReader(stream),
                            new StreamWriter(stream) { AutoFlush = true }
                        );
                        await control.AskAsync("qmp_capabilities", null, stop);
                        return control;
                    }
                    catch (SocketException)
                    {
                        socket.Dispose();
                    }
                }
                await Task.Delay(50, stop);
            }
            return null;
        }

        /// <summary>Whether a drive found no room to write to: from then on the machine stands still.</summary>
        public bool NoSpace { get; private set; }

        /// <summary>Asks, and waits for the answer to it.</summary>
        public async Task<bool> AskAsync(string execute, object? arguments, CancellationToken stop)
        {
            try
            {
                await writer.WriteLineAsync(
                    JsonSerializer
                        .Serialize(arguments is null ? new { execute } : new { execute, arguments } as object)
                        .AsMemory(),
                    stop
                );
                while (await reader.ReadLineAsync(stop) is { } line)
                {
                    using var answer = JsonDocument.Parse(line);
                    NoSpace |=
                        answer.RootElement.TryGetProperty("event", out var happened)
                        && happened.ValueEquals("BLOCK_IO_ERROR")
                        && answer.RootElement.GetProperty("data").TryGetProperty("nospace", out var nospace)
                        && nospace.ValueKind == JsonValueKind.True;
                    if (answer.RootElement.TryGetProperty("return", out _))
                        return true;
                    if (answer.RootElement.TryGetProperty("error", out _))
                        return false;
                }
                return false;
            }
            catch (Exception e) when (e is IOException or JsonException)
            {
                return false;
            }
        }

        public void Dispose()
        {
            reader.Dispose();
            socket.Dispose();
        }
    }
}
