using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Identity;

/// <summary>An identity that the shop gave a machine.</summary>
/// <param name="Id">Its number; evidence and work items name it.</param>
/// <param name="Donor">Id of the donor model; null where only the processor's name is mended.</param>
/// <param name="Profile">What it is.</param>
/// <param name="By">Who gave it.</param>
/// <param name="At">When.</param>
public sealed record GivenIdentity(int Id, string? Donor, IdentityProfile Profile, string By, DateTimeOffset At)
{
    /// <summary>Its number as evidence carries it.</summary>
    public string Name => Id.ToString(System.Globalization.CultureInfo.InvariantCulture);

    /// <summary>The identity that serves for a system: the latest whose donor the system supports; null where none does.</summary>
    /// <param name="given">The identities that the shop gave a machine, the latest last.</param>
    /// <param name="system">Id of the system.</param>
    /// <param name="catalogue">The catalogue with the donors.</param>
    public static GivenIdentity? For(IReadOnlyList<GivenIdentity> given, string system, ShopCatalogue catalogue) =>
        given.LastOrDefault(i =>
            catalogue.Donors.FirstOrDefault(d => d.Id == i.Donor)?.Systems.Contains(system) == true
        );

    /// <summary>Whether a value that a probe reads is one that this identity shows.</summary>
    /// <param name="key">Key of the fact.</param>
    /// <param name="value">What was read.</param>
    public bool Shows(string key, string value) =>
        key switch
        {
            "identity.maker" => value == Profile.Maker,
            "identity.model" => value == Profile.Model,
            "identity.board" => value == Profile.BoardId,
            "identity.serial" => value == Profile.Serial,
            _ => false,
        };
}

/// <summary>What a machine shows under an identity that it took, told apart from what it is.</summary>
public static class TakenIdentity
{
    private static readonly Dictionary<string, string?> Apart = new(StringComparer.Ordinal)
    {
        ["identity.maker"] = null,
        ["identity.board"] = "identity.takenBoard",
        ["identity.model"] = "identity.taken",
        ["identity.serial"] = "identity.takenSerial",
    };

    /// <summary>A probe's readings with what it took under keys of its own; the dossier then keeps what the machine is.</summary>
    /// <param name="known">The dossier.</param>
    /// <param name="probed">What came in.</param>
    /// <param name="given">The identities that the shop gave this machine.</param>
    public static IReadOnlyList<Reading> Told(
        IFacts known,
        IReadOnlyList<Reading> probed,
        IReadOnlyList<GivenIdentity> given
    ) =>
        given.Count == 0
            ? probed
            :
            [
                .. probed
                    .Select(r =>
                        r.Value is FactValue.Text { Value: var value }
                        && Apart.TryGetValue(r.Key, out var other)
                        && known.Word(r.Key) is { } own
                        && own != value
                        && given.Any(g => g.Shows(r.Key, value))
                            ? other is null
                                ? null
                                : r with
                                {
                                    Key = other,
                                }
                            : r
                    )
                    .OfType<Reading>(),
            ];
}
