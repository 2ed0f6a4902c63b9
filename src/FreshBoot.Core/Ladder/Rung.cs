using System.Text.Json.Serialization;

namespace FreshBoot.Core.Ladder;

/// <summary>The ten rungs of the boot ladder, bottom first.</summary>
[JsonConverter(typeof(CamelCaseNames<Rung>))]
public enum Rung
{
    /// <summary>Owner's leave given, not managed, data decided.</summary>
    Release,

    /// <summary>Powers on; memory, storage, battery and ports sound.</summary>
    Parts,

    /// <summary>Mode, switches, TPM, Secure Boot and write-protection as the plan needs.</summary>
    Firmware,

    /// <summary>This firmware can start this stick, disc or card.</summary>
    Medium,

    /// <summary>The installer's own checks let the machine in.</summary>
    Setup,

    /// <summary>The layout fits, and the firmware can reach the boot files.</summary>
    Disk,

    /// <summary>Word size, instruction sets, real memory.</summary>
    Kernel,

    /// <summary>A driver for each device that matters.</summary>
    Devices,

    /// <summary>Programs and speed suit the person.</summary>
    Use,

    /// <summary>Updates come, and until when.</summary>
    Upkeep,
}

/// <summary>
/// How a requirement, a rung or a system stands, from best to worst. The order is the rule: a rung has the worst of
/// its findings, a system the worst of its rungs, and a finding the mildest cure that exists for it.
/// </summary>
[JsonConverter(typeof(CamelCaseNames<Outcome>))]
public enum Outcome
{
    /// <summary>Holds as it is.</summary>
    Clear,

    /// <summary>Goes, with something to know.</summary>
    Caveat,

    /// <summary>A switch in the firmware or the system.</summary>
    Setting,

    /// <summary>A driver to add.</summary>
    Driver,

    /// <summary>A part to fit.</summary>
    Part,

    /// <summary>The installer is changed so that the gate does not check.</summary>
    Patch,

    /// <summary>The machine tells the installer that it is a later model.</summary>
    Spoof,

    /// <summary>The firmware is replaced.</summary>
    Reflash,

    /// <summary>Nobody has measured it.</summary>
    Unknown,

    /// <summary>Nothing lifts it.</summary>
    Wall,
}

/// <summary>The kinds of requirement; confusing them is the costliest mistake in this trade.</summary>
[JsonConverter(typeof(CamelCaseNames<RequirementKind>))]
public enum RequirementKind
{
    /// <summary>The installer checks it; the system would run anyway.</summary>
    Gate,

    /// <summary>The system cannot run without it.</summary>
    Runtime,

    /// <summary>It runs, but not well enough.</summary>
    Comfort,
}
