using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Runs;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Runs;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Dossiers;

/// <summary>A machine as the bench shows it.</summary>
/// <param name="Tag">Its asset tag.</param>
/// <param name="Maker">Its maker, null while unknown.</param>
/// <param name="Model">Its model, null while unknown.</param>
/// <param name="Order">The order it is for, null for none.</param>
/// <param name="Due">The day its order is due; null for none.</param>
/// <param name="Left">Whether it has left the shop.</param>
/// <param name="Bay">The bay it stands in; null on the shelf.</param>
/// <param name="TakenInAt">When it was taken in.</param>
/// <param name="Aim">The system its ladder is drawn for.</param>
/// <param name="Outcome">How that system stands.</param>
/// <param name="Rungs">The outcomes of the ten rungs, bottom first.</param>
/// <param name="Next">What to do next.</param>
/// <param name="Run">Its latest run, if any.</param>
internal sealed record MachineSummary(
    string Tag,
    string? Maker,
    string? Model,
    string? Order,
    DateOnly? Due,
    bool Left,
    int? Bay,
    DateTimeOffset TakenInAt,
    string Aim,
    Outcome Outcome,
    IReadOnlyList<Outcome> Rungs,
    NextStep Next,
    RunGlance? Run
);

/// <summary>A run as the bench shows it.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Step">The instruction whose turn it is; empty when all is done.</param>
/// <param name="Kind">What it asks; null when all is done.</param>
/// <param name="Rung">The rung it stands on.</param>
/// <param name="At">The number of the stop, 1 for the first.</param>
/// <param name="Of">How many stops there are.</param>
/// <param name="Waiting">The wait under way.</param>
/// <param name="UsualMinutes">The usual time of the step.</param>
/// <param name="Stopped">Whether somebody said that it stopped.</param>
/// <param name="FinishedAt">When it was finished.</param>
/// <param name="Paused">Why it was laid aside; null while it goes on.</param>
/// <param name="With">Who goes on with it.</param>
/// <param name="Open">Relaxations that have to be closed.</param>
/// <param name="Ahead">What lies before it until hands are free of it again.</param>
/// <param name="Note">The last note; null where there is none.</param>
/// <param name="System">The system that it installs; null where the machine is retired.</param>
internal sealed record RunGlance(
    string Id,
    string Step,
    StepKind? Kind,
    Rung Rung,
    int At,
    int Of,
    Waiting? Waiting,
    int UsualMinutes,
    bool Stopped,
    DateTimeOffset? FinishedAt,
    string? Paused,
    string With,
    IReadOnlyList<string> Open,
    Ahead Ahead,
    string? Note,
    string? System
)
{
    public static RunGlance From(StoredRun run)
    {
        var stops = Stop.Of(run.Steps);
        var step = run.State.Current < run.Steps.Count ? run.Steps[run.State.Current] : null;
        return new RunGlance(
            run.Id,
            step?.Text ?? "",
            step?.Kind,
            step?.Rung ?? Rung.Upkeep,
            step is null ? stops.Count : Stop.NumberOf(stops, run.Steps, step),
            stops.Count,
            run.State.Waiting,
            step?.UsualMinutes ?? 0,
            run.State.Stopped,
            run.State.FinishedAt,
            run.State.Paused,
            run.State.With ?? run.By,
            run.State.Open,
            Ahead.Of(run.Steps, run.State),
            run.Events.LastOrDefault(e => e.Kind == RunEventKinds.Note)?.Data[RunRules.Text],
            run.Route.System
        );
    }
}

/// <summary>A machine with its dossier.</summary>
/// <param name="Tag">Its asset tag.</param>
/// <param name="Version">Goes up with every change; also the ETag.</param>
/// <param name="Bay">The bay it stands in; null on the shelf.</param>
/// <param name="TakenInAt">When it was taken in.</param>
/// <param name="Aim">The system its ladder is drawn for.</param>
/// <param name="AimChosen">Whether somebody chose it; else it is the best route's.</param>
/// <param name="Facts">What is known.</param>
/// <param name="Unknown">The keys that nobody has measured.</param>
/// <param name="NotInCatalogue">The keys of hardware that the catalogue does not know by its name.</param>
/// <param name="Run">The run that it is in; null where none is begun.</param>
internal sealed record MachineSheet(
    string Tag,
    int Version,
    int? Bay,
    DateTimeOffset TakenInAt,
    string Aim,
    bool AimChosen,
    IReadOnlyList<Fact> Facts,
    IReadOnlyList<string> Unknown,
    IReadOnlyList<string> NotInCatalogue,
    RunGlance? Run
);

/// <summary>Where to put a machine.</summary>
/// <param name="Bay">1 to 6, or null for the shelf.</param>
/// <param name="By">Who puts it there.</param>
/// <param name="Swap">Whether a machine that stands there goes where this one stood.</param>
internal sealed record Placing(int? Bay, [property: Line(60)] string By, bool Swap = false);

/// <summary>Which system a machine is to get.</summary>
/// <param name="System">Id of a system, or null to leave it to the best route.</param>
/// <param name="By">Who chooses.</param>
/// <param name="Why">Why; null where nobody says.</param>
internal sealed record Aiming(string? System, [property: Line(60)] string By, string? Why = null);

/// <summary>Shows machines.</summary>
internal static class MachineSheets
{
    internal static async Task<MachineSheet> ShowAsync(
        StoredMachine machine,
        Shop shop,
        MachineIndex index,
        HttpContext context
    )
    {
        var run = await index.RunOfAsync(machine.Tag, context.RequestAborted);
        context.Response.Headers.ETag = $"\"{machine.Version}\"";
        var standing = shop.Stand(machine);
        var dossier = standing.Dossier;
        return new MachineSheet(
            machine.Tag,
            machine.Version,
            machine.Bay,
            machine.TakenInAt,
            standing.Aim.System,
            machine.Aim is not null && machine.Aim == standing.Aim.System,
            [.. dossier.Facts],
            [.. FactRegistry.All.Where(d => !d.Detail).Select(d => d.Key).Where(key => dossier[key] is null)],
            [.. NotInCatalogue(dossier, shop)],
            run is null ? null : RunGlance.From(run)
        );
    }

    /// <summary>Names of hardware that no pattern of the catalogue fits.</summary>
    private static IEnumerable<string> NotInCatalogue(Dossier dossier, Shop shop)
    {
        if (dossier.Word("cpu.model") is { } cpu && shop.Catalogue.Processors.All(p => !p.Pattern.IsMatch(cpu)))
            yield return "cpu.model";
        foreach (var group in new[] { "graphics", "network", "audio" })
            for (var i = 0; i < 10; i++)
                if (dossier.Word($"{group}.{i}.model") is { } name && shop.Catalogue.Device(group, name) is null)
                    yield return $"{group}.{i}.model";
    }
}
