using System.Text.Json;
using FreshBoot.Core.Dossiers;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Runs;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Dossiers;

/// <summary>A value that a person enters or chooses.</summary>
/// <param name="Value">The value; numbers may come with a unit, "8 GB".</param>
/// <param name="Source">Where it was read; <c>chosen</c> settles a conflict of sources.</param>
/// <param name="By">Who says so.</param>
internal sealed record FactWord(JsonElement Value, [property: Line(100)] string Source, [property: Line(60)] string By);

/// <summary>Who takes a word back.</summary>
internal sealed record TakenBack([property: Line(60)] string By);

internal static class FactEndpoints
{
    private const string ChosenSource = "chosen";

    public static void MapFacts(this IEndpointRouteBuilder app)
    {
        app.MapGet("/api/fact-keys", () => FactRegistry.All)
            .WithSummary("Every fact key: form, unit, range, rung, and how to measure it by hand");

        app.MapPut(
                "/api/machines/{tag}/facts/{key}",
                async (
                    string tag,
                    string key,
                    FactWord word,
                    MachineStore store,
                    Shop shop,
                    MachineIndex index,
                    TimeProvider clock,
                    HttpContext context
                ) =>
                {
                    var value = FactEntry.Read(key, word.Value);
                    var source = Given.Text(word.Source, "source", 100);
                    var reading = new Reading(
                        key,
                        value,
                        source,
                        source == ChosenSource ? Origin.Chosen : Origin.Entered,
                        clock.GetUtcNow(),
                        Given.Text(word.By, "by", 60)
                    );
                    return await MachineSheets.ShowAsync(
                        await store.EnterAsync(Given.Tag(tag, "tag"), reading, context.RequestAborted),
                        shop,
                        index,
                        context
                    );
                }
            )
            .WithSummary("Enters a fact by hand, or chooses among sources that disagree")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapPost(
                "/api/machines/{tag}/facts/{key}/take-back",
                async (
                    string tag,
                    string key,
                    TakenBack back,
                    MachineStore store,
                    RunStore runs,
                    Shop shop,
                    MachineIndex index,
                    HttpContext context
                ) =>
                {
                    FactRegistry.Get(key);
                    var known = Given.Tag(tag, "tag");
                    // What a run rests on stays said while the run is open; the run has a step back of its own.
                    if (
                        key.StartsWith("release.", StringComparison.Ordinal)
                        && await runs.LatestOfAsync(known, context.RequestAborted) is { State.IsOpen: true }
                    )
                        throw new RefusedException(
                            RefusalKind.Conflict,
                            "A run is under way that rests on it.",
                            "key",
                            "The run finished, or stopped with the reason."
                        );
                    return await MachineSheets.ShowAsync(
                        await store.UnsayAsync(known, key, Given.Text(back.By, "by", 60), context.RequestAborted),
                        shop,
                        index,
                        context
                    );
                }
            )
            .WithSummary("Takes back what people said of a fact: it is unknown again, or what a probe says")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapGet(
                "/api/machines/{tag}/facts/{key}/history",
                async (string tag, string key, MachineStore store, CancellationToken stop) =>
                {
                    FactRegistry.Get(key);
                    return await store.HistoryAsync(Given.Tag(tag, "tag"), key, stop);
                }
            )
            .WithSummary("Every reading of a fact that ever came in, latest first")
            .ProducesProblem(StatusCodes.Status404NotFound);
    }
}
