using System.Collections.Frozen;
using FreshBoot.Core.Catalogue;

namespace FreshBoot.Core.Firmware;

/// <summary>What a plan of switches is asked for.</summary>
/// <param name="Present">How every switch stands, by its key.</param>
/// <param name="Wanted">What is wanted; a switch that is not named may end as it must.</param>
/// <param name="Knows">What is particular about this firmware.</param>
/// <param name="KeepOutgoing">Whether the system that is on the drive has to start at the end.</param>
public sealed record SwitchQuestion(
    IReadOnlyDictionary<string, string> Present,
    IReadOnlyDictionary<string, string> Wanted,
    FirmwareManners Knows,
    bool KeepOutgoing = false
);

/// <summary>What is particular about a maker's firmware.</summary>
/// <param name="HasUefi">Whether it has UEFI at all.</param>
/// <param name="Grey">Switches that stay grey until an administrator password is set.</param>
/// <param name="Module">Whether a TPM module is in the header.</param>
/// <param name="UpdateBy">How it is updated.</param>
public sealed record FirmwareManners(
    bool HasUefi,
    IReadOnlySet<string> Grey,
    bool Module = false,
    UpdateWay UpdateBy = UpdateWay.None
);

/// <summary>A step of a plan: one switch, or one thing that has to be done before one may be touched.</summary>
/// <param name="Does">What the hand does.</param>
/// <param name="Why">Why it comes here.</param>
/// <param name="Caution">What could be lost; null where nothing can.</param>
/// <param name="Minutes">How long it usually takes.</param>
/// <param name="Switch">The switch that it changes.</param>
/// <param name="From">How that stood.</param>
/// <param name="To">How it stands then.</param>
public sealed record SwitchStep(
    string Does,
    string Why,
    string? Caution,
    int Minutes,
    string Switch,
    string From,
    string To
);

/// <summary>The order in which switches are turned, or why there is none.</summary>
/// <param name="Steps">The steps; null where there is no order.</param>
/// <param name="WhyNone">What stands in the way; null where nothing does.</param>
public sealed record SwitchPlan(IReadOnlyList<SwitchStep>? Steps, string? WhyNone)
{
    /// <summary>The switches by their place in <see cref="FirmwareSwitches.All"/>, for the search.</summary>
    private enum At
    {
        Mode,
        Compatibility,
        SecureBoot,
        Keys,
        Tpm,
        Password,
        Storage,
        UsbStart,
        Order,
        Version,
        Encryption,
        Outgoing,
    }

    private static readonly FrozenDictionary<string, int> Place = FirmwareSwitches
        .All.Select((s, i) => (s.Key, i))
        .ToFrozenDictionary(x => x.Key, x => x.i, StringComparer.Ordinal);

    private static readonly string[][] Values =
    [
        .. FirmwareSwitches.All.Select(s => s.Values.Select(v => v.Value).ToArray()),
    ];

    /// <summary>What no plan gets round; each is told where a plan would exist without it.</summary>
    private enum Barrier
    {
        NoUefi,
        NoSecureBoot,
        NoTpm,
        NoModule,
        NoUpdate,
        KeyLost,
        OutgoingStops,
    }

    /// <summary>One thing that a hand can do.</summary>
    private sealed record Move(
        string Switch,
        string To,
        string Does,
        string Why,
        string? Caution,
        int Minutes,
        Func<Bench, bool> May
    );

    /// <summary>A state of all switches beside what is known of the machine.</summary>
    private readonly ref struct Bench(ReadOnlySpan<byte> at, SwitchQuestion asked, ReadOnlySpan<bool> lifted)
    {
        private readonly ReadOnlySpan<byte> _at = at;
        private readonly ReadOnlySpan<bool> _lifted = lifted;

        public string this[At at] => Values[(int)at][_at[(int)at]];

        public bool Is(At at, string value) => this[at] == value;

        public bool Lifted(Barrier barrier) => _lifted[(int)barrier];

        public SwitchQuestion Asked => asked;

        /// <summary>Whether its firmware may be touched without locking the drive: sealed keys change with it.</summary>
        public bool Safe => this[At.Encryption] is "none" or "suspended";

        /// <summary>Whether a switch that wants an administrator password can be turned.</summary>
        public bool Reachable(At at) =>
            Is(At.Password, "set") || !asked.Knows.Grey.Contains(FirmwareSwitches.All[(int)at].Key);

        /// <summary>
        /// Whether the system on the drive starts: one for legacy BIOS wants that mode or the compatibility mode, one for UEFI wants
        /// UEFI, and either wants the controller as it was when it was installed.
        /// </summary>
        public bool OutgoingStarts =>
            Lifted(Barrier.OutgoingStops)
            || (
                this[At.Outgoing] switch
                {
                    "mbr" => Is(At.Mode, "bios") || Is(At.Compatibility, "on"),
                    "gpt" => Is(At.Mode, "uefi"),
                    _ => false,
                }
                && this[At.Storage] == asked.Present[FirmwareSwitches.Storage]
            );
    }

    private const string SealedKeys =
        "Sealed keys change with it: suspend the encryption first, with the recovery key seen.";

    /// <summary>Every move, in the order in which one of several equally short plans is chosen.</summary>
    private static readonly Move[] Moves =
    [
        new(
            FirmwareSwitches.Encryption,
            "keySeen",
            "See the recovery key of the drive, and compare its first eight signs with the note",
            "Whatever touches the firmware can lock the drive.",
            "Without the key the owner's data may be lost for good.",
            5,
            b => b.Is(At.Encryption, "on") || (b.Is(At.Encryption, "lost") && b.Lifted(Barrier.KeyLost))
        ),
        new(
            FirmwareSwitches.Encryption,
            "suspended",
            "Suspend the encryption of the drive, in the system that is on it",
            "Else its sealed keys no longer fit, and it asks for the recovery key.",
            "Suspend it; do not switch it off, and clear no TPM.",
            4,
            b => b.Is(At.Encryption, "keySeen") && b.OutgoingStarts
        ),
        new(
            FirmwareSwitches.Version,
            "current",
            "Update the firmware with its maker's file",
            "This version does not offer the switch yet.",
            "Mains on and battery charged; leave the power alone until it has restarted by itself. Then compare every page with the photographs: an update may set switches back.",
            20,
            b =>
                b.Is(At.Version, "old")
                && b.Safe
                && (
                    b.Lifted(Barrier.NoUpdate)
                    || b.Asked.Knows.UpdateBy is UpdateWay.Stick or UpdateWay.Either
                    || (b.Asked.Knows.UpdateBy is UpdateWay.Outgoing && b.OutgoingStarts)
                )
        ),
        new(
            FirmwareSwitches.Outgoing,
            "gpt",
            "Turn the drive's MBR into a GPT, in the system that is on it",
            "One that was installed for legacy BIOS does not start once the compatibility mode is off.",
            "Only with the owner's data saved and the copy opened: the table of the drive is written anew.",
            15,
            b => b.Is(At.Outgoing, "mbr") && b.OutgoingStarts
        ),
        new(
            FirmwareSwitches.Password,
            "set",
            "Set an administrator password for the time of the change, and note it on this paper",
            "A switch stays grey without it.",
            "It comes off again before the machine leaves: one that is left on locks its owner out.",
            2,
            b => b.Is(At.Password, "none") && b.Asked.Knows.Grey.Count > 0
        ),
        new(
            FirmwareSwitches.Mode,
            "uefi",
            "Set the start mode to UEFI",
            "What comes next wants UEFI.",
            "A system that was installed for legacy BIOS starts only while the compatibility mode is on.",
            3,
            b =>
                b.Is(At.Mode, "bios")
                && b.Safe
                && b.Reachable(At.Mode)
                && (b.Asked.Knows.HasUefi || b.Lifted(Barrier.NoUefi))
        ),
        new(
            FirmwareSwitches.Compatibility,
            "off",
            "Switch the compatibility mode off",
            "Secure Boot stays grey while it is on.",
            "A system that was installed for legacy BIOS does not start any more.",
            3,
            b => b.Is(At.Compatibility, "on") && b.Is(At.Mode, "uefi") && b.Safe && b.Reachable(At.Compatibility)
        ),
        new(
            FirmwareSwitches.Keys,
            "loaded",
            "Load the factory keys of Secure Boot, and save",
            "Without keys the firmware stays in set-up mode, and Secure Boot cannot be switched on.",
            "Load the keys and nothing else: no defaults of the whole set-up.",
            3,
            b =>
                b.Is(At.Keys, "none")
                && b.Is(At.Mode, "uefi")
                && !b.Is(At.SecureBoot, "absent")
                && b.Safe
                && b.Reachable(At.Keys)
        ),
        new(
            FirmwareSwitches.SecureBoot,
            "on",
            "Switch Secure Boot on",
            "It is wanted on.",
            SealedKeys,
            2,
            b =>
                b.Is(At.SecureBoot, "off")
                && b.Is(At.Mode, "uefi")
                && b.Is(At.Compatibility, "off")
                && b.Is(At.Keys, "loaded")
                && b.Safe
                && b.Reachable(At.SecureBoot)
        ),
        new(
            FirmwareSwitches.SecureBoot,
            "off",
            "Switch Secure Boot off",
            "What is started carries no signature that the firmware knows, or another switch wants it off.",
            SealedKeys + " Clear no keys.",
            2,
            b =>
                (b.Is(At.SecureBoot, "on") || (b.Is(At.SecureBoot, "absent") && b.Lifted(Barrier.NoSecureBoot)))
                && b.Safe
                && b.Reachable(At.SecureBoot)
        ),
        new(
            FirmwareSwitches.Compatibility,
            "on",
            "Switch the compatibility mode on",
            "Legacy BIOS wants it.",
            null,
            3,
            b => b.Is(At.Compatibility, "off") && !b.Is(At.SecureBoot, "on") && b.Safe && b.Reachable(At.Compatibility)
        ),
        new(
            FirmwareSwitches.Mode,
            "bios",
            "Set the start mode to legacy BIOS",
            "It is wanted so.",
            "A system that was installed for UEFI does not start in this mode.",
            3,
            b =>
                b.Is(At.Mode, "uefi")
                && b.Is(At.Compatibility, "on")
                && !b.Is(At.SecureBoot, "on")
                && b.Safe
                && b.Reachable(At.Mode)
        ),
        new(
            FirmwareSwitches.Tpm,
            "off",
            "Switch the TPM that is used off, and save",
            "The firmware's own and the module exclude each other.",
            "Switch it off; clear nothing. " + SealedKeys,
            3,
            b =>
                b.Safe
                && b.Reachable(At.Tpm)
                && (
                    b.Is(At.Tpm, "firmware")
                    || b.Is(At.Tpm, "module")
                    || (b.Is(At.Tpm, "hidden") && b.Is(At.Version, "current"))
                    || (b.Is(At.Tpm, "absent") && b.Lifted(Barrier.NoTpm))
                )
        ),
        new(
            FirmwareSwitches.Tpm,
            "firmware",
            "Switch the firmware's own TPM on",
            "It is wanted on.",
            "Enable only: never clear, reset or restore it.",
            3,
            b =>
                b.Safe
                && b.Reachable(At.Tpm)
                && (b.Is(At.Tpm, "off") || (b.Is(At.Tpm, "hidden") && b.Is(At.Version, "current")))
        ),
        new(
            FirmwareSwitches.Tpm,
            "module",
            "Let the firmware use the module in its header",
            "It is wanted on.",
            "Enable only: never clear, reset or restore it.",
            3,
            b =>
                b.Safe
                && b.Reachable(At.Tpm)
                && (b.Asked.Knows.Module || b.Lifted(Barrier.NoModule))
                && b.Is(At.Tpm, "off")
        ),
        Controller("ahci"),
        Controller("ide"),
        Controller("raid"),
        new(
            FirmwareSwitches.UsbStart,
            "allowed",
            "Allow the start from a USB medium",
            "The installer is started from a stick.",
            "It is forbidden again at the end: else anybody with a stick gets in.",
            2,
            b => b.Is(At.UsbStart, "forbidden") && b.Reachable(At.UsbStart)
        ),
        new(
            FirmwareSwitches.UsbStart,
            "allowed",
            "Look whether the start from a USB medium is allowed, note it, and allow it where it is not",
            "The installer is started from a stick, and nobody has looked.",
            "At the end it is set as it was found: what was forbidden is forbidden again.",
            2,
            b => b.Is(At.UsbStart, "unknown") && b.Reachable(At.UsbStart)
        ),
        new(
            FirmwareSwitches.UsbStart,
            "forbidden",
            "Forbid the start from a USB medium",
            "What this work allowed is forbidden again; what was allowed before stays so.",
            null,
            2,
            b => b.Is(At.UsbStart, "allowed") && b.Reachable(At.UsbStart)
        ),
        new(
            FirmwareSwitches.Order,
            "stick",
            "Put the stick first in the order of both pages: that of the drives and that of the start",
            "An installer that restarts several times comes back by itself.",
            null,
            2,
            b => b.Is(At.Order, "drive") && b.Is(At.UsbStart, "allowed")
        ),
        new(
            FirmwareSwitches.Order,
            "drive",
            "Put the drive first again, on both pages",
            "It was so before.",
            null,
            2,
            b => b.Is(At.Order, "stick")
        ),
        new(
            FirmwareSwitches.Password,
            "none",
            "Take the administrator password off again",
            "It was set for the time of the change.",
            null,
            2,
            b => b.Is(At.Password, "set")
        ),
        new(
            FirmwareSwitches.Encryption,
            "keySeen",
            "Resume the encryption, in the system that is on the drive",
            "It was suspended for the time of the change.",
            null,
            3,
            b => b.Is(At.Encryption, "suspended") && b.OutgoingStarts
        ),
    ];

    private static Move Controller(string to) =>
        new(
            FirmwareSwitches.Storage,
            to,
            $"Set the drive controller to {FirmwareSwitches.Find(FirmwareSwitches.Storage)!.Says(to)}",
            "It is wanted so.",
            "A system that was installed under the old setting does not start any more.",
            2,
            b => !b.Is(At.Storage, to) && b.Safe && b.Reachable(At.Storage)
        );

    /// <summary>
    /// The shortest order of steps from how it stands to what is wanted; among equally short ones that of the table. What was
    /// encrypted ends encrypted, and a password that was set for the change comes off.
    /// </summary>
    /// <exception cref="RefusedException">A switch or value is unknown, or two of the present ones do not go together.</exception>
    public static SwitchPlan Of(SwitchQuestion asked)
    {
        var present = Coded(asked.Present);
        var goal = Goal(asked);
        if (Contradiction(asked.Present) is { } odd)
            throw new RefusedException(
                RefusalKind.Impossible,
                odd,
                "present",
                "Look once more at the pages of its settings: one of the two was read wrongly."
            );
        var none = new bool[Enum.GetValues<Barrier>().Length];
        if (Search(asked, present, goal, none) is { } steps)
            return new SwitchPlan(steps, null);
        return new SwitchPlan(null, Why(asked, present, goal));
    }

    /// <summary>What two switches cannot both be; null where they go together.</summary>
    public static string? Contradiction(IReadOnlyDictionary<string, string> at)
    {
        if (at[FirmwareSwitches.SecureBoot] == "on")
        {
            if (at[FirmwareSwitches.Mode] == "bios")
                return "Secure Boot is on, and it starts by legacy BIOS: both cannot be.";
            if (at[FirmwareSwitches.Compatibility] == "on")
                return "Secure Boot and the compatibility mode are both on: both cannot be.";
            if (at[FirmwareSwitches.Keys] == "none")
                return "Secure Boot is on, and no keys are loaded: both cannot be.";
        }
        if (at[FirmwareSwitches.Mode] == "bios" && at[FirmwareSwitches.Compatibility] == "off")
            return "It starts by legacy BIOS, and the compatibility mode is off: both cannot be.";
        return at[FirmwareSwitches.Tpm] == "hidden" && at[FirmwareSwitches.Version] == "current"
            ? "The TPM is hidden by an old version, and the firmware is current: both cannot be."
            : null;
    }

    /// <summary>The state after a step.</summary>
    public static IReadOnlyDictionary<string, string> After(
        IReadOnlyDictionary<string, string> present,
        IEnumerable<SwitchStep> steps
    )
    {
        var at = present.ToDictionary(StringComparer.Ordinal);
        foreach (var step in steps)
            at[step.Switch] = step.To;
        return at;
    }

    private static byte[] Coded(IReadOnlyDictionary<string, string> state) =>
        [
            .. FirmwareSwitches.All.Select(s =>
                state.TryGetValue(s.Key, out var value)
                    ? Coded(s, value, "present")
                    : throw new RefusedException(
                        RefusalKind.Invalid,
                        $"Nothing is said of “{s.Key}”.",
                        "present",
                        string.Join(", ", s.Values.Select(v => v.Value))
                    )
            ),
        ];

    private static byte Coded(FirmwareSwitch s, string value, string where)
    {
        for (var i = 0; i < s.Values.Count; i++)
            if (s.Values[i].Value == value)
                return (byte)i;
        throw new RefusedException(
            RefusalKind.Invalid,
            $"“{s.Label}” is never “{value}”.",
            $"{where}.{s.Key}",
            string.Join(", ", s.Values.Select(v => v.Value))
        );
    }

    /// <summary>For each switch the values in which a plan may end, as bits.</summary>
    private static uint[] Goal(SwitchQuestion asked)
    {
        var goal = FirmwareSwitches.All.Select(s => (1u << s.Values.Count) - 1).ToArray();
        foreach (var (key, value) in asked.Wanted)
        {
            var s =
                FirmwareSwitches.Find(key)
                ?? throw new RefusedException(
                    RefusalKind.Invalid,
                    $"There is no switch “{key}”.",
                    $"wanted.{key}",
                    string.Join(", ", FirmwareSwitches.All.Select(x => x.Key))
                );
            if (!s.Wanted.Contains(value))
                throw new RefusedException(
                    RefusalKind.Invalid,
                    $"“{s.Label}” cannot be asked to be “{value}”.",
                    $"wanted.{key}",
                    string.Join(", ", s.Wanted)
                );
            goal[Place[key]] = 1u << Coded(s, value, "wanted");
        }
        // What was opened for the time of the change is closed again, whatever is wanted.
        if (!asked.Wanted.ContainsKey(FirmwareSwitches.Password))
            goal[Place[FirmwareSwitches.Password]] = asked.Present[FirmwareSwitches.Password] == "set" ? 3u : 1u;
        if (!asked.Wanted.ContainsKey(FirmwareSwitches.Encryption))
            goal[Place[FirmwareSwitches.Encryption]] = ~(1u << 3);
        return goal;
    }

    private static List<SwitchStep>? Search(SwitchQuestion asked, byte[] from, uint[] goal, bool[] lifted)
    {
        // A switch that nothing else waits for is turned only where it is asked for.
        var idle = new bool[Moves.Length];
        for (var i = 0; i < Moves.Length; i++)
            idle[i] =
                Moves[i].Switch is FirmwareSwitches.Storage or FirmwareSwitches.Order or FirmwareSwitches.UsbStart
                && !asked.Wanted.ContainsKey(Moves[i].Switch)
                && !(Moves[i].Switch == FirmwareSwitches.UsbStart && asked.Wanted.ContainsKey(FirmwareSwitches.Order));
        var begin = Number(from);
        var came = new Dictionary<int, (int From, int Move)> { [begin] = (-1, -1) };
        var queue = new Queue<int>();
        queue.Enqueue(begin);
        Span<byte> at = stackalloc byte[FirmwareSwitches.All.Count];
        while (queue.TryDequeue(out var number))
        {
            Unfold(number, at);
            var bench = new Bench(at, asked, lifted);
            if (Ends(at, goal) && (!asked.KeepOutgoing || bench.Is(At.Outgoing, "none") || bench.OutgoingStarts))
                return Walk(came, number);
            for (var i = 0; i < Moves.Length; i++)
            {
                if (idle[i] || !Moves[i].May(bench))
                    continue;
                var place = Place[Moves[i].Switch];
                var was = at[place];
                at[place] = To[i];
                var next = Number(at);
                at[place] = was;
                if (came.TryAdd(next, (number, i)))
                    queue.Enqueue(next);
            }
        }
        return null;
    }

    private static readonly byte[] To = [.. Moves.Select(m => Coded(FirmwareSwitches.Find(m.Switch)!, m.To, "moves"))];

    private static bool Ends(ReadOnlySpan<byte> at, uint[] goal)
    {
        for (var i = 0; i < goal.Length; i++)
            if ((goal[i] & (1u << at[i])) == 0)
                return false;
        return true;
    }

    private static int Number(ReadOnlySpan<byte> at)
    {
        var number = 0;
        for (var i = 0; i < at.Length; i++)
            number = number * Values[i].Length + at[i];
        return number;
    }

    private static void Unfold(int number, Span<byte> at)
    {
        for (var i = at.Length - 1; i >= 0; i--)
        {
            var values = Values[i].Length;
            at[i] = (byte)(number % values);
            number /= values;
        }
    }

    private static List<SwitchStep> Walk(Dictionary<int, (int From, int Move)> came, int end)
    {
        var steps = new List<SwitchStep>();
        Span<byte> at = stackalloc byte[FirmwareSwitches.All.Count];
        for (var (from, i) = came[end]; from >= 0; (from, i) = came[from])
        {
            var move = Moves[i];
            Unfold(from, at);
            var s = FirmwareSwitches.Find(move.Switch)!;
            steps.Insert(
                0,
                new SwitchStep(
                    move.Does,
                    move.Why,
                    move.Caution,
                    move.Minutes,
                    move.Switch,
                    s.Values[at[Place[move.Switch]]].Value,
                    move.To
                )
            );
        }
        return steps;
    }

    /// <summary>The fewest barriers without which there would be a plan.</summary>
    private static string Why(SwitchQuestion asked, byte[] from, uint[] goal)
    {
        var all = Enum.GetValues<Barrier>();
        foreach (var barrier in all)
            if (Search(asked, from, goal, Lifted(barrier)) is not null)
                return Says(barrier);
        foreach (var one in all)
        foreach (var other in all.Where(b => b > one))
            if (Search(asked, from, goal, Lifted(one, other)) is not null)
                return $"{Says(one)} {Says(other)}";
        return Search(asked, from, goal, Lifted(all)) is null
            ? "What is wanted does not go together: no order of steps ends so."
            : string.Join(' ', all.Select(Says));
    }

    private static bool[] Lifted(params Barrier[] barriers)
    {
        var lifted = new bool[Enum.GetValues<Barrier>().Length];
        foreach (var barrier in barriers)
            lifted[(int)barrier] = true;
        return lifted;
    }

    private static string Says(Barrier barrier) =>
        barrier switch
        {
            Barrier.NoUefi => "This firmware has legacy BIOS only.",
            Barrier.NoSecureBoot => "This firmware has no Secure Boot.",
            Barrier.NoTpm => "There is no TPM in it that could be switched on.",
            Barrier.NoModule => "No TPM module is in its header.",
            Barrier.NoUpdate => "It would take a newer firmware, and nobody knows of one, or of a way to put it on.",
            Barrier.KeyLost =>
                "The drive is encrypted and nobody has the recovery key: ask its owner before anything is touched.",
            _ => "It would take the system that is on the drive, which does not start then.",
        };
}
