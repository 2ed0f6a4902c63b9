using System.Text;
using FreshBoot.Core.Catalogue;

namespace FreshBoot.Core.Patching;

/// <summary>A component that is left out, and why.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">Its name.</param>
/// <param name="Because">Null where it was chosen; else the component without which it makes no sense.</param>
/// <param name="Breaks">What no longer works.</param>
public sealed record LeftOut(string Id, string Name, string? Because, string Breaks);

/// <summary>A system trimmed by the shop itself: what is left out, what that costs, and the script and recipe that do it.</summary>
/// <param name="Left">What is left out, in the order in which it is removed.</param>
/// <param name="SavedBytes">Space saved.</param>
/// <param name="SavedMemoryMiB">Memory saved.</param>
/// <param name="Script">A script for the running system, to be read before it is run.</param>
/// <param name="Undo">The script that brings it back.</param>
/// <param name="Recipe">A recipe for the image.</param>
public sealed record TrimPlan(
    IReadOnlyList<LeftOut> Left,
    long SavedBytes,
    int SavedMemoryMiB,
    string Script,
    string Undo,
    Recipe Recipe
)
{
    /// <summary>What can be left out for an order: whatever nobody wants for its purposes, directly or through what needs it.</summary>
    public static IReadOnlyList<string> Dispensable(
        IReadOnlyList<SystemComponent> components,
        IReadOnlyCollection<string> purposes
    ) =>
        [
            .. components
                .Where(c => !c.Fixed && !Closure(components, [c.Id]).Any(x => x.Fixed || x.For.Any(purposes.Contains)))
                .Select(c => c.Id),
        ];

    /// <summary>Plans to leave components out.</summary>
    /// <param name="system">Id of the system.</param>
    /// <param name="build">Build of the image; null for any.</param>
    /// <param name="components">The components of the system.</param>
    /// <param name="leave">Ids of those to leave out.</param>
    /// <exception cref="RefusedException">One that does not exist or without which the system does not run.</exception>
    public static TrimPlan Make(
        string system,
        string? build,
        IReadOnlyList<SystemComponent> components,
        IReadOnlyList<string> leave
    )
    {
        foreach (var id in leave)
            if (components.All(c => c.Id != id))
                throw new RefusedException(
                    RefusalKind.Invalid,
                    $"The system has no component “{id}”.",
                    "leave",
                    Numbers.Join(components.Select(c => c.Id), "or")
                );
        if (leave.Count == 0)
            throw new RefusedException(RefusalKind.Invalid, "Nothing is left out.", "leave", "At least one component.");
        var gone = Closure(components, leave);
        if (gone.FirstOrDefault(c => c.Fixed) is { } fixedOne)
            throw new RefusedException(
                RefusalKind.Conflict,
                $"{fixedOne.Name} cannot be left out{(leave.Contains(fixedOne.Id) ? "" : ", and it needs what is to go")}: {fixedOne.Breaks}",
                "leave",
                "Components without which the system runs."
            );
        // What needs something goes before what it needs.
        var ordered = new List<SystemComponent>();
        while (ordered.Count < gone.Count)
        {
            var next =
                gone.FirstOrDefault(c =>
                    !ordered.Contains(c) && gone.All(o => ordered.Contains(o) || o == c || !o.Needs.Contains(c.Id))
                )
                // A circle of needs: all of it goes, in any order.
                ?? gone.First(c => !ordered.Contains(c));
            ordered.Add(next);
        }
        var saved = ordered.Sum(c => c.SizeBytes);
        var memory = ordered.Sum(c => c.MemoryMiB);
        return new TrimPlan(
            [
                .. ordered.Select(c => new LeftOut(
                    c.Id,
                    c.Name,
                    leave.Contains(c.Id) ? null : c.Needs.First(n => gone.Any(g => g.Id == n)),
                    c.Breaks
                )),
            ],
            saved,
            memory,
            Commands(system, ordered, "remove", saved, memory),
            Commands(system, ordered.AsEnumerable().Reverse(), "install", saved, memory),
            new Recipe
            {
                Id = $"trim-{system}",
                Name = $"Leave out {Numbers.Join(ordered.Select(c => c.Name.ToLowerInvariant()), "and")}",
                About = "Built in this shop from the maker's image: the components are left out when it is installed.",
                For = new RecipeFor(
                    system,
                    build is null ? [] : [build],
                    [new FileCondition("setup/components.conf", Contains: "components 1")]
                ),
                Costs = [.. ordered.Select(c => c.Breaks)],
                Operations =
                [
                    .. ordered.Select(c => new ReplaceText
                    {
                        Path = "setup/components.conf",
                        Find = $"component {c.Id} install\n",
                        With = $"component {c.Id} leave\n",
                    }),
                ],
            }
        );
    }

    /// <summary>Components with all that needs them, in the order of the catalogue.</summary>
    private static IReadOnlyList<SystemComponent> Closure(
        IReadOnlyList<SystemComponent> components,
        IReadOnlyList<string> ids
    )
    {
        var gone = ids.ToHashSet(StringComparer.Ordinal);
        while (components.FirstOrDefault(c => !gone.Contains(c.Id) && c.Needs.Any(gone.Contains)) is { } more)
            gone.Add(more.Id);
        return [.. components.Where(c => gone.Contains(c.Id))];
    }

    private static string Commands(
        string system,
        IEnumerable<SystemComponent> components,
        string verb,
        long saved,
        int memory
    )
    {
        var script = new StringBuilder("#!/bin/sh\n");
        script.Append(
            $"# {(verb == "remove" ? "Takes out of" : "Brings back to")} {PatchScript.Remark(system)}, about {saved / 1_000_000} MB and {memory} MiB of memory.\n"
        );
        script.Append(
            "# Read it before you run it. It stops at the first command that fails, and says which.\nset -eu\n"
        );
        script.Append(
            "command -v component > /dev/null || { echo \"This is no system whose components can be changed.\" >&2; exit 1; }\n\n"
        );
        foreach (var component in components)
            script.Append(
                $"# {PatchScript.Remark(component.Name)}. Without it: {PatchScript.Remark(component.Breaks)}\necho {PatchScript.Quote($"{verb}: {component.Id}")}\ncomponent {verb} {PatchScript.Quote(component.Id)}\n\n"
            );
        script.Append("echo \"Done. Restart once.\"\n");
        return script.ToString();
    }
}
