using FreshBoot.Core.BootKits;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Handover;
using FreshBoot.Core.Ladder;

namespace FreshBoot.Core.Upkeep;

/// <summary>A machine that has left and that a change of the catalogue touches.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="Name">Maker and model.</param>
/// <param name="Why">By what: its facts, its steps, and what of its ladder changes.</param>
/// <param name="Letter">A letter to its owner, in plain words of their language.</param>
public sealed record TouchedMachine(string Tag, string Name, IReadOnlyList<string> Why, string Letter);

/// <summary>Which machines that have left a changed entry of the catalogue touches.</summary>
public static class Recall
{
    private static readonly string[] Groups = ["graphics", "network", "audio", "bluetooth", "camera", "touch"];

    /// <summary>The machines, by tag.</summary>
    /// <param name="kind">The list of the entry, such as <c>systems</c>.</param>
    /// <param name="id">The entry.</param>
    /// <param name="before">The catalogue as it is.</param>
    /// <param name="after">The catalogue with the entry changed.</param>
    /// <param name="machines">Those that have left.</param>
    /// <param name="today">The day on which they are judged.</param>
    /// <param name="words">The words of a language, for an owner who reads it.</param>
    /// <param name="shop">Who writes the letter.</param>
    public static IReadOnlyList<TouchedMachine> Of(
        string kind,
        string id,
        ShopCatalogue before,
        ShopCatalogue after,
        IEnumerable<KeptMachine> machines,
        DateOnly today,
        Func<string, OwnerWords> words,
        string shop
    )
    {
        var (was, now) = (new Evaluator(before), new Evaluator(after));
        var touched = new List<TouchedMachine>();
        foreach (var machine in machines)
        {
            string[] why =
            [
                .. Rests(kind, id, before, after, machine),
                .. Moves(was, now, before, after, machine, today),
            ];
            if (why.Length > 0)
                touched.Add(
                    new TouchedMachine(
                        machine.Tag,
                        machine.Name,
                        why,
                        Letter(
                            machine,
                            after,
                            today,
                            words(machine.Facts.Word(OwnerWords.LanguageKey) ?? OwnerWords.Own),
                            shop
                        )
                    )
                );
        }
        return [.. touched.OrderBy(t => t.Tag, StringComparer.Ordinal)];
    }

    /// <summary>What of its record rests on the entry.</summary>
    private static IEnumerable<string> Rests(
        string kind,
        string id,
        ShopCatalogue before,
        ShopCatalogue after,
        KeptMachine machine
    )
    {
        switch (kind)
        {
            case "systems" when machine.Route.System == id:
                yield return "it runs this system";
                break;
            case "cures":
                foreach (var cure in machine.Route.Cures.Where(c => c.Id == id))
                    yield return $"it was done to it: {cure.Does}";
                break;
            case "boards":
                foreach (var cure in machine.Route.Cures.Where(c => c.Board == id))
                    yield return $"the firmware of its board was replaced: {cure.Does}";
                break;
            case "payloads":
                foreach (var cure in machine.Route.Cures.Where(c => c.Payload == id))
                    yield return $"it was written onto its chip: {cure.Does}";
                break;
            case "procedures" when machine.Procedures.Contains(id):
                yield return "steps of its sheet came from it";
                break;
            case "components" when InKit(before, machine, id) || InKit(after, machine, id):
                yield return "its boot kit has it";
                break;
            case "devices":
                foreach (var group in Groups)
                    for (var i = 0; i < 10; i++)
                        if (
                            machine.Facts.Word($"{group}.{i}.model") is { } model
                            && (before.Device(group, model)?.Id == id || after.Device(group, model)?.Id == id)
                        )
                            yield return $"it has one: {model}";
                break;
        }
    }

    /// <summary>Whether the kit that its route took, as this catalogue builds it, has a component.</summary>
    private static bool InKit(ShopCatalogue catalogue, KeptMachine machine, string component) =>
        machine.Route.System is { } id
        && catalogue.System(id) is { Kit: not null } system
        && machine.Route.Cures.Any(c => c.Kind == Outcome.Spoof)
        && KitBuilder.TryBuild(machine.Route.AtInstaller(machine.Facts), system, catalogue) is { } kit
        && kit.Components.Any(c => c.Component.Id == component);

    /// <summary>What of its ladder changes, with all that was done to it.</summary>
    private static IEnumerable<string> Moves(
        Evaluator was,
        Evaluator now,
        ShopCatalogue before,
        ShopCatalogue after,
        KeptMachine machine,
        DateOnly today
    )
    {
        if (machine.Route.System is not { } id || before.System(id) is not { } old)
            yield break;
        if (after.System(id) is not { } changed)
        {
            yield return "its system is not in the catalogue any more";
            yield break;
        }
        var plan = machine.PlanOn(today);
        var (left, right) = (was.Assess(machine.Facts, old, plan), now.Assess(machine.Facts, changed, plan));
        foreach (var (a, b) in left.Rungs.Zip(right.Rungs))
            if (a.Outcome != b.Outcome)
                yield return $"{Lower(a.Rung)}: {Lower(a.Outcome)} → {Lower(b.Outcome)}";
        var (ended, ends) = (EndOf(machine, old), EndOf(machine, changed));
        if (ended != ends)
            yield return $"updates end {Day(ends)}, and not {Day(ended)}";
    }

    /// <summary>No word of the trade in it: what is so, what to do, whom to ask.</summary>
    private static string Letter(
        KeptMachine machine,
        ShopCatalogue after,
        DateOnly today,
        OwnerWords words,
        string shop
    )
    {
        var system = machine.Route.System is { } id ? after.System(id) : null;
        var end = system is null ? null : EndOf(machine, system);
        (string, string) name = ("system", system?.FullName ?? "");
        return string.Join(
            "\n\n",
            words.Say("letterTo", ("machine", machine.Name), ("tag", machine.Tag)),
            words.Say("letterWhy", ("date", words.Day(machine.LeftOn))),
            system is null ? words.Say("letterNone")
                : end is { } day && day < today ? words.Say("letterEnded", name, ("date", words.Day(day)))
                : end is { } until ? words.Say("letterUntil", name, ("date", words.Day(until)))
                : words.Say("letterOn", name),
            words.Say("letterPlease"),
            words.Say("letterFrom", ("shop", shop), ("date", words.Day(today)))
        );
    }

    private static DateOnly? EndOf(KeptMachine machine, SystemEntry system) =>
        system.EndsFor(machine.Facts, machine.Route.Cures.Any(c => c.Extends == system.Id));

    private static string Day(DateOnly? day) => day is { } d ? $"on {d:d MMM yyyy}" : "on no day that is set";

    private static string Lower(Enum value) => value.ToString().ToLowerInvariant();
}
