using System.Text.Json.Serialization;

namespace FreshBoot.Core.Terms;

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
