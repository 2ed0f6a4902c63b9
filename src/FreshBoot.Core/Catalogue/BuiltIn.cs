using FreshBoot.Core.Conditions;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Catalogue;

/// <summary>The requirements that every system has, because they are about the machine and its owner.</summary>
public static class BuiltIn
{
    private static readonly Evidence House = new("rule of the house", new DateOnly(2026, 11, 2), Sureness.Tried);

    /// <summary>Release and parts. Unanswered is unknown, never clear.</summary>
    public static IReadOnlyList<Requirement> Requirements { get; } =
    [
        Ask("owner", Rung.Release, "the owner's leave", OneOf("release.owner", ["given"], ["asked"])),
        Ask(
            "managed",
            Rung.Release,
            "a machine that no organisation holds",
            OneOf("release.managed", ["free"], ["waiting"])
        ),
        Ask(
            "data",
            Rung.Release,
            "a decision on the data",
            OneOf("release.data", ["not-wanted", "saved", "drive-kept"], ["asked"])
        ),
        // Without the key the data is lost as soon as anything seals itself; that only matters where it is wanted.
        Ask(
            "encryption",
            Rung.Release,
            "no encryption, or its recovery key seen",
            new Condition.Any([
                OneOf("release.encryption", ["none", "key-seen"], []),
                OneOf("release.data", ["not-wanted"], ["asked"]),
            ])
        ),
        Ask("locks", Rung.Release, "a machine that nothing locks", OneOf("release.locks", ["none"], [])),
        Ask("power", Rung.Parts, "a machine that powers on", OneOf("parts.powersOn", ["yes"], [])),
        Ask("battery", Rung.Parts, "a flat, dry battery or none", OneOf("parts.battery", ["none", "sound"], [])),
        Ask("drive", Rung.Parts, "a drive that works", OneOf("parts.storage", ["sound", "watch"], [])),
        // A worn drive still goes: a thing to know, not a shortfall.
        Ask("drive-wear", Rung.Parts, "a drive without wear", OneOf("parts.storage", ["sound"], [])) with
        {
            Kind = RequirementKind.Comfort,
        },
    ];

    private static Requirement Ask(string id, Rung rung, string needed, Condition needs) =>
        new(id, RequirementKind.Runtime, rung, needs, House, Says: needed);

    private static Condition.OneOf OneOf(string fact, string[] values, string[] open) =>
        new(fact, [.. values.Select(FactValue.Of)], [.. open.Select(FactValue.Of)]);
}
