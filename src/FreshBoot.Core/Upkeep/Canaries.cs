using System.Text.Json.Serialization;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Handover;

namespace FreshBoot.Core.Upkeep;

/// <summary>What an update did to a machine that is kept to try it on.</summary>
[JsonConverter(typeof(CamelCaseNames<UpdateVerdict>))]
public enum UpdateVerdict
{
    /// <summary>It may be installed.</summary>
    Safe,

    /// <summary>It must not be installed yet.</summary>
    Wait,

    /// <summary>It takes away what was changed, which has to be done again.</summary>
    Again,
}

/// <summary>What was tried on a canary.</summary>
/// <param name="Verdict">What it came to.</param>
/// <param name="Says">Which update, and what to do, in the words of whoever tried it.</param>
/// <param name="By">Who tried it.</param>
/// <param name="At">When.</param>
public sealed record TriedUpdate(UpdateVerdict Verdict, string Says, string By, DateTimeOffset At);

/// <summary>A machine of the shop that is kept to try updates on.</summary>
/// <param name="Tag">Its tag.</param>
/// <param name="Name">Maker and model.</param>
/// <param name="System">Its system.</param>
/// <param name="Cures">Ids of what was done to it.</param>
/// <param name="Last">What was tried last; null where nothing was.</param>
public sealed record CanaryMachine(
    string Tag,
    string Name,
    string? System,
    IReadOnlyCollection<string> Cures,
    TriedUpdate? Last
);

/// <summary>A machine whose owner is to be told.</summary>
/// <param name="Tag">Its tag.</param>
/// <param name="Name">Maker and model.</param>
/// <param name="Letter">What the owner is told; null while nothing was tried.</param>
public sealed record OwnerToTell(string Tag, string Name, string? Letter);

/// <summary>Something that was done to machines that have left, and that an update may take away.</summary>
/// <param name="System">The system.</param>
/// <param name="Cure">Id of what was done.</param>
/// <param name="What">The same in words.</param>
/// <param name="Canary">The machine on which updates are tried first; null where none is kept.</param>
/// <param name="Owners">The machines that rest on it.</param>
public sealed record WatchedChange(
    string System,
    string Cure,
    string What,
    CanaryMachine? Canary,
    IReadOnlyList<OwnerToTell> Owners
);

/// <summary>Which changes need a canary, and what their owners hear of an update. Nobody hears of one that was not tried first.</summary>
public static class Canaries
{
    /// <summary>All of them: those without a canary first, then the ones that most machines rest on.</summary>
    /// <param name="kept">The machines that have left.</param>
    /// <param name="canaries">The machines that are kept.</param>
    /// <param name="system">The full name of a system.</param>
    /// <param name="words">The words of a language.</param>
    /// <param name="today">The day of the letters.</param>
    /// <param name="shop">Who writes them.</param>
    public static IReadOnlyList<WatchedChange> Of(
        IEnumerable<KeptMachine> kept,
        IReadOnlyList<CanaryMachine> canaries,
        Func<string, string> system,
        Func<string, OwnerWords> words,
        DateOnly today,
        string shop
    ) =>
        [
            .. kept.Where(m => m.Route.System is not null)
                .SelectMany(m =>
                    m.Route.Cures.Where(c => UpdatesTakeAway(c.Kind))
                        .Select(c => (System: m.Route.System!, c.Id, c.Does, Machine: m))
                )
                .GroupBy(w => (w.System, w.Id))
                .Select(g =>
                {
                    var canary = canaries
                        .Where(c => c.System == g.Key.System && c.Cures.Contains(g.Key.Id))
                        .OrderByDescending(c => c.Last?.At)
                        .ThenBy(c => c.Tag, StringComparer.Ordinal)
                        .FirstOrDefault();
                    return new WatchedChange(
                        g.Key.System,
                        g.Key.Id,
                        $"{system(g.Key.System)}: {g.First().Does}",
                        canary,
                        [
                            .. g.Select(w => w.Machine)
                                .OrderBy(m => m.Tag, StringComparer.Ordinal)
                                .Select(m => new OwnerToTell(
                                    m.Tag,
                                    m.Name,
                                    canary?.Last is { } last ? Letter(m, system, last, words, today, shop) : null
                                )),
                        ]
                    );
                })
                .OrderBy(w => w.Canary is not null)
                .ThenByDescending(w => w.Owners.Count)
                .ThenBy(w => w.What, StringComparer.Ordinal),
        ];

    private static bool UpdatesTakeAway(Outcome kind) =>
        kind is Outcome.Patch or Outcome.Spoof or Outcome.Driver or Outcome.Reflash;

    private static string Letter(
        KeptMachine machine,
        Func<string, string> system,
        TriedUpdate tried,
        Func<string, OwnerWords> words,
        DateOnly today,
        string shop
    )
    {
        var said = words(machine.Facts.Word(OwnerWords.LanguageKey) ?? OwnerWords.Own);
        return string.Join(
            "\n\n",
            said.Say("letterTo", ("machine", machine.Name), ("tag", machine.Tag)),
            said.Say("letterUpdate", ("system", system(machine.Route.System!)), ("says", tried.Says)),
            said.Say(
                tried.Verdict switch
                {
                    UpdateVerdict.Safe => "letterSafe",
                    UpdateVerdict.Wait => "letterWait",
                    _ => "letterAgain",
                }
            ),
            said.Say("letterFrom", ("shop", shop), ("date", said.Day(today)))
        );
    }
}
