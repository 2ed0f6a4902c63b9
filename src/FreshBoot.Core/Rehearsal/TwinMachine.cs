using System.Buffers.Binary;
using System.Security.Cryptography;
using System.Text;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Identity;
using FreshBoot.Core.Images;
using FreshBoot.Formats.Smbios;

namespace FreshBoot.Core.Rehearsal;

/// <summary>
/// How an emulator is set up to stand in for a machine: firmware kind, word size, what its processor lacks, memory, and what
/// its firmware's table says. Where the twin differs from the machine, <see cref="Differs"/> says so.
/// </summary>
/// <param name="Firmware"><c>bios</c>, <c>uefi64</c> or <c>uefi32</c>.</param>
/// <param name="MemoryMiB">Memory of the twin.</param>
/// <param name="LacksFlags">Processor features taken away, by the kernel's names.</param>
/// <param name="Processor">Name of the processor.</param>
/// <param name="Smbios">SMBIOS structures (DSP0134), one each, without an end marker.</param>
/// <param name="Differs">Where it differs from the machine.</param>
public sealed record TwinMachine(
    string Firmware,
    int MemoryMiB,
    IReadOnlyList<string> LacksFlags,
    string Processor,
    IReadOnlyList<byte[]> Smbios,
    IReadOnlyList<string> Differs
)
{
    /// <summary>SHA-256 over all that the emulator is told: two twins with the same one are the same.</summary>
    public string SetUp
    {
        get
        {
            using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
            hash.AppendData(
                Encoding.UTF8.GetBytes($"{Firmware}\n{MemoryMiB}\n{Processor}\n{string.Join(',', LacksFlags)}\n")
            );
            foreach (var structure in Smbios)
                hash.AppendData(structure);
            return Convert.ToHexStringLower(hash.GetHashAndReset());
        }
    }

    /// <summary>Memory that a twin gets at most, in MiB: a loader needs little, and several run at once.</summary>
    public const int MostMemoryMiB = 1024;
    private const int LeastMemoryMiB = 128;

    /// <summary>Sets up the twin of a machine.</summary>
    /// <param name="facts">Its dossier.</param>
    /// <param name="firmware">The firmware to start by; null for what the machine is started by.</param>
    /// <param name="identity">Another identity to take; null for its own.</param>
    /// <exception cref="RefusedException">A machine of which no twin can be made, or firmware that it does not have.</exception>
    public static TwinMachine Of(IFacts facts, string? firmware, IdentityProfile? identity)
    {
        if (facts.Word("cpu.arch") is { } arch && arch != "x86")
            throw Refuse(
                $"The twin has an x86 processor; this machine has {arch}.",
                "cpu.arch",
                "A machine with an x86 processor."
            );
        var ways = FirmwareWays.Of(facts);
        if (ways.WhyNone is { } none && firmware is null)
            throw Refuse(
                none,
                "firmware.kind",
                "Replace the firmware first, or choose a firmware kind to see the time after that."
            );
        var differs = new List<string>();
        var start = firmware ?? ways.Now;
        if (start is null)
        {
            start = "bios";
            differs.Add("Nobody knows how this machine starts: the twin starts by BIOS.");
        }
        if (ways.Against(start) is { } against)
            throw Refuse(
                against,
                "firmware",
                $"{Numbers.Join(ways.Ways.Select(w => $"“{w.Name}”"), "or")}, or the fact changed that says so."
            );

        if (ways.Now is { } now && now != start)
            differs.Add($"The machine starts by {Name(now)}, the twin by {Name(start)}.");

        var flags = facts["cpu.flags"] as FactValue.Words;
        var level = facts.Word("cpu.level");
        var lacks = new List<string>();
        var levels = CpuLevel.Levels;
        // Without flags the level says what is missing: all that the levels above it add.
        var reach = levels.Select(l => l.Level).ToList().IndexOf(level ?? "");
        foreach (var (i, feature) in levels.Take(3).SelectMany((l, i) => l.Adds.Select(f => (i, f))))
            if (flags is not null ? !flags.Has(feature.Flag) : level is not null && i > reach)
                lacks.Add(feature.Flag);
        if (flags is null && level is null)
            differs.Add("Nobody knows what the processor can do: the twin's can do all up to x86-64-v3.");
        if (level == "x86-64-v4")
            differs.Add("The twin has no AVX-512: x86-64-v4 cannot be shown.");
        if (facts.Number("cpu.wordBits") == 32 && !lacks.Contains("lm"))
            lacks.Add("lm");

        var installed = (int)(facts.Number("memory.installedMiB") ?? facts.Number("memory.visibleMiB") ?? 0);
        if (installed == 0)
            differs.Add($"Nobody knows how much memory it has: the twin has {MostMemoryMiB} MiB.");
        var memory = Math.Clamp(installed == 0 ? MostMemoryMiB : installed, LeastMemoryMiB, MostMemoryMiB);
        if (installed > memory)
            differs.Add($"The twin has {memory} MiB; its firmware's table says {installed}, as the machine's does.");
        differs.Add("The firmware is the emulator's own, not the maker's: its menus, keys and quirks are not shown.");
        if (facts.Word("firmware.secureBoot") == "on")
            differs.Add(
                "Secure Boot is on at the machine and absent from the twin: a loader without a signature starts here."
            );
        if (facts.Word("tpm.version") is "1.2" or "2.0")
            differs.Add("The twin has no TPM device; only its firmware's table names one.");
        if (facts.Number("cpu.cores") is > 1 and var cores)
            differs.Add($"The twin has one core, the machine {cores}.");
        differs.Add(
            "Its processor has the machine's name, and the emulator's maker: programs find their instructions by it."
        );
        differs.Add("Graphics, drives, network and sound are the emulator's own, not the machine's.");

        // A comma ends an option of the emulator, and nothing escapes it there.
        var processor = (facts.Word("cpu.model") ?? "unknown").Replace(',', ' ');
        return new TwinMachine(
            start,
            memory,
            lacks,
            processor,
            Taken(Table(facts, processor, installed == 0 ? memory : installed), identity),
            differs
        );
    }

    private static string Name(string firmware) =>
        firmware switch
        {
            "bios" => "legacy BIOS",
            "uefi32" => "32-bit UEFI",
            _ => "UEFI",
        };

    /// <summary>The structures with an identity in them: the same that is put into the machine's own table.</summary>
    private static List<byte[]> Taken(List<byte[]> table, IdentityProfile? identity) =>
        identity is null ? table : [.. table.Select(s => SmbiosRewriter.Rewrite(s, identity.Edits).Table)];

    private static List<byte[]> Table(IFacts facts, string processor, int installedMiB)
    {
        var maker = facts.Word("identity.maker") ?? "";
        var model = facts.Word("identity.model") ?? "";
        var all = new List<byte[]>
        {
            One(
                1,
                0x1b,
                s =>
                {
                    s.Text(0x04, maker);
                    s.Text(0x05, model);
                    s.Text(0x07, facts.Word("identity.serial") ?? "");
                    s.Byte(0x18, 0x06);
                }
            ),
            One(
                2,
                0x08,
                s =>
                {
                    s.Text(0x04, maker);
                    s.Text(0x05, facts.Word("identity.board") ?? "");
                }
            ),
            // Section 7.5: a central processor, populated and enabled.
            One(
                4,
                0x2a,
                s =>
                {
                    s.Text(0x04, "CPU 0");
                    s.Byte(0x05, 3);
                    s.Byte(0x06, 2);
                    s.Text(0x07, processor.Split(' ')[0]);
                    s.Text(0x10, processor);
                    s.Byte(0x18, 0x41);
                    var cores = (byte)Math.Clamp(facts.Number("cpu.cores") ?? 1, 1, 255);
                    s.Byte(0x23, cores);
                    s.Byte(0x24, cores);
                }
            ),
            // Section 7.20: the whole memory as one range, in KiB.
            One(
                19,
                0x0f,
                s =>
                {
                    s.DoubleWord(0x04, 0);
                    s.DoubleWord(0x08, (uint)(installedMiB * 1024L - 1));
                    s.Byte(0x0e, 1);
                }
            ),
        };
        // Section 7.44: a TPM that is switched on is in the table.
        if (facts.Word("tpm.version") is "1.2" or "2.0" && facts.Word("tpm.version") is { } version)
            all.Add(
                One(
                    43,
                    0x1f,
                    s =>
                    {
                        s.DoubleWord(0x04, 0x48535246);
                        s.Byte(0x08, (byte)(version[0] - '0'));
                        s.Byte(0x09, (byte)(version[2] - '0'));
                        s.Text(0x12, "TPM");
                    }
                )
            );
        // Section 6.1.2: a handle is given once. Each structure was made alone, so they all begin with the same.
        for (var i = 0; i < all.Count; i++)
            BinaryPrimitives.WriteUInt16LittleEndian(all[i].AsSpan(2), (ushort)(0x0100 + i));
        return all;
    }

    private static byte[] One(byte type, byte length, Action<SmbiosWriter.Structure> fill)
    {
        var table = new SmbiosWriter();
        table.Add(type, length, fill);
        // What Finish adds is the end marker: four bytes and two zeros.
        return table.Finish()[..^6];
    }

    private static RefusedException Refuse(string what, string where, string wanted) =>
        new(RefusalKind.Conflict, what, where, wanted);
}

/// <summary>What a start in the emulator showed.</summary>
/// <param name="Verdict"><c>letIn</c>, <c>refused</c>, <c>loader</c> (it ran and said neither) or <c>nothing</c>.</param>
/// <param name="Why">The verdict in a sentence.</param>
public sealed record TwinVerdict(string Verdict, string Why)
{
    /// <summary>Judges a start.</summary>
    /// <param name="text">What came down the serial line, without control characters.</param>
    /// <param name="firmwareLog">What the firmware said of it.</param>
    /// <param name="says">What the system's installer says where it lets a machine in, and where it refuses; null where nobody knows.</param>
    public static TwinVerdict Judge(string text, string firmwareLog, InstallerWords? says)
    {
        if (says is not null && Line(text, says.Refuses) is { } refused)
            return new TwinVerdict(
                "refused",
                Reasons(text, says.Reason) is { Length: > 0 } why ? $"{refused} It says: {why}." : refused
            );
        if (says is not null && Line(text, says.LetsIn) is { } let)
            return new TwinVerdict("letIn", let);
        // SeaBIOS names the address that it jumps to, OVMF the option that it starts; a failed start follows at once.
        var all = firmwareLog + "\n" + text;
        var started = Math.Max(
            all.LastIndexOf("Booting from 0", StringComparison.Ordinal),
            all.LastIndexOf("BdsDxe: starting Boot", StringComparison.Ordinal)
        );
        var failed = Math.Max(
            all.LastIndexOf("No bootable device", StringComparison.Ordinal),
            Math.Max(
                all.LastIndexOf("BdsDxe: No bootable option", StringComparison.Ordinal),
                all.LastIndexOf("BdsDxe: failed to start", StringComparison.Ordinal)
            )
        );
        if (
            started >= 0
            && started > failed
            && !all[started..].Contains("EFI Internal Shell", StringComparison.Ordinal)
        )
            return new TwinVerdict(
                "loader",
                says is null
                    ? "The firmware started its loader."
                    : "The loader was started, and said neither yes nor no within the time."
            );
        return new TwinVerdict(
            "nothing",
            failed >= 0 || started >= 0
                ? "The firmware found nothing on it that it could start."
                : "It was not ended within the time: the firmware had not said yet what it starts."
        );
    }

    /// <summary>Whether the firmware itself said that there is nothing that it starts.</summary>
    /// <param name="text">What came down the serial line.</param>
    /// <param name="firmwareLog">What the firmware said of it.</param>
    public static bool FoundNothing(string text, string firmwareLog) =>
        firmwareLog.Contains("No bootable device", StringComparison.Ordinal)
        || text.Contains("No bootable option", StringComparison.Ordinal)
        || text.Contains("UEFI Interactive Shell", StringComparison.Ordinal)
        || SignatureRefused(text);

    /// <summary>Whether UEFI refused a loader for want of a signature (UEFI 2.10, 32.5.3: a security violation or access denied).</summary>
    /// <param name="text">What came down the serial line.</param>
    public static bool SignatureRefused(string text) =>
        text.Contains("Security Violation", StringComparison.Ordinal)
        || text.Contains("Access Denied", StringComparison.Ordinal);

    private static string Reasons(string text, string? reason) =>
        reason is null
            ? ""
            : string.Join(
                "; ",
                text.Split('\n')
                    .Select(l => l.Trim())
                    .Where(l => l.StartsWith(reason, StringComparison.Ordinal))
                    .Select(l => l[reason.Length..].Trim())
                    .Distinct(StringComparer.Ordinal)
            );

    private static string? Line(string text, string says) =>
        text.Split('\n').Select(l => l.Trim()).FirstOrDefault(l => l.Contains(says, StringComparison.Ordinal));
}
