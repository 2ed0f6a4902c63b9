using FreshBoot.Core.Identity;

namespace FreshBoot.Core.BootKits;

/// <summary>What a kit is built from, as one text: where it differs, the kit would be built otherwise now.</summary>
public static class KitFrom
{
    /// <summary>Components with their versions in their order, the build, and the number of the identity.</summary>
    public static string Of(BootKit kit, GivenIdentity? identity) =>
        string.Join(
            '\n',
            kit.Components.Select(c => $"{c.Component.Id} {c.Component.Version}")
                .Append($"build {kit.Build}")
                .Append($"identity {identity?.Name ?? "none"}")
        );
}
