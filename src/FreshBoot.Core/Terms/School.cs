using System.Text.Json.Serialization;

namespace FreshBoot.Core.Terms;

/// <summary>The schools of practice; each has its price, and the person at the bench chooses.</summary>
[JsonConverter(typeof(CamelCaseNames<School>))]
public enum School
{
    /// <summary>Meet the rules: switches and parts, and stay supported.</summary>
    Comply,

    /// <summary>Change the installer so that its gates do not check.</summary>
    Patch,

    /// <summary>Take the identity of a later model.</summary>
    Spoof,

    /// <summary>Replace the firmware.</summary>
    Reflash,

    /// <summary>Take a light or browser-first system.</summary>
    Lighten,

    /// <summary>Keep the system that is on it.</summary>
    Stay,

    /// <summary>Spare parts and recycling.</summary>
    Retire,
}
