using System.Text.Json.Serialization;

namespace FreshBoot.Core.Terms;

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
