using FreshBoot.Core.Ladder;
using FreshBoot.Core.Runs;
using FreshBoot.Core.Sheets;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Parts;
using FreshBoot.Data.Runs;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Sheets;
using Route = FreshBoot.Core.Routes.Route;

namespace FreshBoot.Server.Runs;

/// <summary>Begins a run where nothing forbids it and the route still fits; what it takes from the shelf is kept for it.</summary>
internal sealed class BeginRun(RunStore runs, MachineStore machines, ComposeSheet sheets, Shop shop)
{
    public async Task<StoredRun> DoAsync(StoredMachine machine, Beginning beginning, CancellationToken stop)
    {
        var standing = shop.Stand(machine);
        var route = standing.Route(beginning.RouteId, stop);
        string? because = null;
        foreach (
            var found in StartRules
                .Of(standing.Dossier, standing.Release)
                .Where(s => s.Retiring || route.School != School.Retire)
        )
        {
            if (!found.MayOverride || beginning.Override is not { } word)
                throw new RefusedException(
                    RefusalKind.Conflict,
                    found.Rung == Rung.Release ? $"The release rung is open: {found.Text}" : found.Text,
                    found.Rung.ToString().ToLowerInvariant(),
                    found.MayOverride
                            ? "All questions of the release rung answered, or “override” with a reason and a name."
                        : found.Rung == Rung.Release
                            ? "The machine released by whoever holds it; nothing else opens this."
                        : "The part taken care of, and the fact entered by name."
                );
            because = $"{Given.Text(word.Reason, "override.reason", 500)} ({Given.Text(word.By, "override.by", 60)})";
        }
        var run = await runs.BeginAsync(
            machine,
            route,
            RunSheet.Of(await sheets.QuestionAsync(standing, route, stop)).OrRefused(),
            TakesOf(standing, route),
            shop.Catalogue.Hash,
            Given.Text(beginning.By, "by", 60),
            because,
            stop
        );
        // What is being installed is what every view draws the machine's ladder for.
        if (route.System is { } aim && aim != machine.Aim)
            await machines.AimAsync(machine.Tag, aim, CancellationToken.None);
        return run;
    }

    /// <summary>The modules that a route takes from the shelf.</summary>
    public static ModuleWish[] TakesOf(MachineStanding standing, Route route) =>
        [
            .. MemoryUpgrades
                .All(standing.Dossier, standing.Now.Catalogue.Memory, standing.Shelf)
                .Upgrades.Where(u => u.FromShelf > 0 && route.Cures.Any(c => c.Id == u.Cure.Id))
                .Select(u => new ModuleWish(u.Type, u.SizeMiB, u.FromShelf)),
        ];
}
