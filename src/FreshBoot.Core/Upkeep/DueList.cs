using System.Text.Json.Serialization;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Upkeep;

/// <summary>What falls due.</summary>
[JsonConverter(typeof(CamelCaseNames<DueKind>))]
public enum DueKind
{
    /// <summary>Updates end.</summary>
    SupportEnds,

    /// <summary>Updates can be paid for beyond their end.</summary>
    BuyExtension,

    /// <summary>Patches are looked after: an update may have taken them away.</summary>
    PatchCheck,

    /// <summary>The battery is looked at again.</summary>
    BatteryCheck,

    /// <summary>An order is to be ready.</summary>
    OrderDue,

    /// <summary>An image can be fetched for the last time.</summary>
    SourceGoes,
}

/// <summary>Something that falls due.</summary>
/// <param name="Id">Unique, and the same whenever it is asked for.</param>
/// <param name="On">The day.</param>
/// <param name="Kind">What.</param>
/// <param name="Tag">The machine; null for an order.</param>
/// <param name="What">It in a line.</param>
/// <param name="Why">What it rests on, and what to do.</param>
public sealed record Due(string Id, DateOnly On, DueKind Kind, string? Tag, string What, string Why);

/// <summary>What falls due of the machines that have left: each from its record and the catalogue as it is today.</summary>
public static class DueList
{
    /// <summary>Paid updates are bought so long before the free ones end, in days.</summary>
    public const int ExtensionAhead = 60;

    /// <summary>Patched machines are looked after every so many days: large updates come about twice a year.</summary>
    public const int PatchEvery = 90;

    /// <summary>A battery with less than this of its design is looked at again, in per cent.</summary>
    public const int BatteryWorn = 80;

    /// <summary>And so many days after it left.</summary>
    public const int BatteryAfter = 180;

    /// <summary>All of it, the earliest first. What is over by more than a year is told no more.</summary>
    public static IReadOnlyList<Due> Of(IEnumerable<KeptMachine> machines, ShopCatalogue catalogue, DateOnly today) =>
        [
            .. machines
                .SelectMany(m => OfOne(m, catalogue, today))
                .Where(d => d.On >= today.AddYears(-1))
                .OrderBy(d => d.On)
                .ThenBy(d => d.Id, StringComparer.Ordinal),
        ];

    private static IEnumerable<Due> OfOne(KeptMachine machine, ShopCatalogue catalogue, DateOnly today)
    {
        var (tag, name) = (machine.Tag, machine.Name);
        if (machine.Route.System is { } id && catalogue.System(id) is { } system)
        {
            var extended = machine.Route.Cures.Any(c => c.Extends == id);
            if (system.EndsFor(machine.Facts, extended) is { } end)
                yield return new Due(
                    $"{tag}-support-{id}",
                    end,
                    DueKind.SupportEnds,
                    tag,
                    $"{system.FullName} on {tag} ends",
                    $"{name}: no updates after this day{(extended ? ", which was paid for" : "")}. Call the owner: another system, or the end."
                );
            if (!extended && system.Extension is { } offer && system.EndsFor(machine.Facts, extended) is { } free)
                yield return new Due(
                    $"{tag}-extension-{id}",
                    free.AddDays(-ExtensionAhead),
                    DueKind.BuyExtension,
                    tag,
                    $"Updates of {tag} can be paid for",
                    $"{system.FullName} ends on {free:d MMM yyyy}. Until {offer.Ends:d MMM yyyy} for {Numbers.Money(offer.Money)}: ask the owner."
                );
            var after = catalogue.PatchesAfter(machine.Facts, id);
            if (after.Count > 0 || machine.Route.Cures.Any(c => c.Kind is Outcome.Patch or Outcome.Spoof))
                yield return new Due(
                    $"{tag}-patches",
                    Next(machine.LeftOn, PatchEvery, today),
                    DueKind.PatchCheck,
                    tag,
                    $"Are the patches of {tag} still in?",
                    after.Count > 0
                        ? $"{name}: {string.Join(' ', after.Select(p => p.Sign))}"
                        : $"{name} runs {system.FullName} by a patch: ask the owner whether updates still come."
                );
        }
        if (machine.Facts.Number("battery.healthPercent") is { } health && health < BatteryWorn)
            yield return new Due(
                $"{tag}-battery",
                machine.LeftOn.AddDays(BatteryAfter),
                DueKind.BatteryCheck,
                tag,
                $"Look at the battery of {tag}",
                $"{name}: {health} % of its design when it left. Warm or swollen: take it out of use at once."
            );
    }

    /// <summary>The next of a row of days that has not gone by.</summary>
    private static DateOnly Next(DateOnly from, int every, DateOnly today)
    {
        var rounds = Math.Max(1, (today.DayNumber - from.DayNumber + every - 1) / every);
        return from.AddDays(rounds * every);
    }
}
