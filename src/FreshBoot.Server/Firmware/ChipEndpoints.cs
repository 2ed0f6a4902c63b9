using System.Text.Json.Serialization;
using FreshBoot.Core.Firmware;
using FreshBoot.Data.Firmware;
using FreshBoot.Server.Jobs;
using FreshBoot.Workshop.Simulated;

namespace FreshBoot.Server.Firmware;

/// <summary>A chip that is put on the bench.</summary>
/// <param name="Tag">The machine that it is soldered into.</param>
/// <param name="By">Who does it.</param>
/// <param name="Faults">What is wrong with a simulated one.</param>
internal sealed record ChipIn(string Tag, string By, ChipFaults? Faults = null);

/// <summary>What a person says that they saw or did.</summary>
[JsonConverter(typeof(CamelCaseNames<ChipWhat>))]
internal enum ChipWhat
{
    /// <summary>Mains is on.</summary>
    Mains,

    /// <summary>An external programmer is clipped on.</summary>
    Programmer,

    /// <summary>Name and revision of the board.</summary>
    Board,

    /// <summary>Write protection was taken off.</summary>
    Protection,

    /// <summary>After a look that explained nothing: it holds what its maker left on it.</summary>
    Maker,
}

/// <summary>A person's word about a chip.</summary>
/// <param name="What">What about.</param>
/// <param name="By">Who says so.</param>
/// <param name="Board">Name that is printed on the board.</param>
/// <param name="Revision">Revision that is printed on it.</param>
/// <param name="Reason">How one knows that nobody has written it since.</param>
internal sealed record ChipWord(
    ChipWhat What,
    string By,
    string? Board = null,
    string? Revision = null,
    string? Reason = null
);

/// <summary>Who does a job, and with what.</summary>
/// <param name="By">Who.</param>
/// <param name="Medium">Of a backup: the medium onto which it goes.</param>
/// <param name="Tag">Of a write: the tag of the machine, as the danger wants it.</param>
internal sealed record ChipJob(string By, string? Medium = null, string? Tag = null);

/// <summary>The image that shall be written.</summary>
/// <param name="RomId">Its id on the shelf.</param>
/// <param name="By">Who chose it.</param>
/// <param name="Reason">Why an image is taken of which nobody knows for which board it is; null for any other.</param>
internal sealed record ChipChoice(int RomId, string By, string? Reason = null);

/// <summary>A chip as its page shows it.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Tag">The machine.</param>
/// <param name="SizeBytes">Its size.</param>
/// <param name="State">How it stands.</param>
/// <param name="Says">The same in a sentence.</param>
/// <param name="Starts">Whether the machine starts from it.</param>
/// <param name="BeforeWrite">What has to hold before it is written.</param>
/// <param name="BeforeRestore">What has to hold before the backup is written back.</param>
/// <param name="Protection">How the board protects it, and what that looks like.</param>
/// <param name="WhyUnsupported">Why it may not be written at all; null where the board is on the list.</param>
/// <param name="Log">What happened to it, the latest first.</param>
internal sealed record ChipSheet(
    int Id,
    string Tag,
    long SizeBytes,
    ChipState State,
    string Says,
    bool Starts,
    IReadOnlyList<ChipCheck> BeforeWrite,
    IReadOnlyList<ChipCheck> BeforeRestore,
    string? Protection,
    string? WhyUnsupported,
    IReadOnlyList<ChipEvent> Log
);

internal static class ChipEndpoints
{
    public static void MapChips(this IEndpointRouteBuilder app)
    {
        app.MapGet(
                "/api/chips",
                async (ChipStore chips, WorkOnChip work, CancellationToken stop) =>
                {
                    var sheets = new List<ChipSheet>();
                    foreach (var row in await chips.ListAsync(stop))
                        sheets.Add(await SheetAsync(row, work, stop));
                    return sheets;
                }
            )
            .WithSummary("Firmware chips on the bench, each with what has to hold before it is written");

        app.MapPost(
                "/api/chips",
                async (ChipIn wish, WorkOnChip work, CancellationToken stop) =>
                {
                    var row = await work.AddAsync(wish, stop);
                    return TypedResults.Created($"/api/chips/{row.Id}", await SheetAsync(row, work, stop));
                }
            )
            .WithSummary("Puts the chip of a machine on the bench: a simulated one")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapGet(
                "/api/chips/{id:int}",
                async (int id, ChipStore chips, WorkOnChip work, CancellationToken stop) =>
                    await SheetAsync(await chips.GetAsync(id, stop), work, stop)
            )
            .WithSummary("A chip, and what happened to it")
            .ProducesProblem(StatusCodes.Status404NotFound);

        Word<ChipWord>(
            app,
            "confirm",
            "Keeps what a person saw or did: mains, board, protection, programmer",
            (id, word, work, stop) => work.ConfirmAsync(id, word, stop)
        );
        Word<ChipChoice>(
            app,
            "image",
            "Checks the image that shall be written against chip, board and backup",
            (id, choice, work, stop) => work.ChooseAsync(id, choice, stop)
        );
        Job(app, "read", "Reads the chip from end to end", (id, job, work, stop) => work.ReadAsync(id, job.By, stop));
        Job(
            app,
            "backup",
            "Stores what is on it elsewhere, and reads that again",
            (id, job, work, stop) => work.BackupAsync(id, job.Medium ?? "", job.By, stop)
        );
        Job(
            app,
            "write",
            "Erases and writes it with the checked image, and reads it back",
            (id, job, work, stop) => work.WriteAsync(id, job.Tag ?? "", job.By, stop)
        );
        Job(
            app,
            "look",
            "After records were taken from a back-up: reads it and compares it with all that is known",
            (id, job, work, stop) => work.LookAsync(id, job.By, stop)
        );
        Job(
            app,
            "verify",
            "Reads it once more and compares it with what it should hold",
            (id, job, work, stop) => work.VerifyAsync(id, job.By, stop)
        );
        Job(
            app,
            "restore",
            "Writes the backup back, and reads it back",
            (id, job, work, stop) => work.RestoreAsync(id, job.Tag ?? "", job.By, stop)
        );
    }

    private static void Word<T>(
        IEndpointRouteBuilder app,
        string verb,
        string summary,
        Func<int, T, WorkOnChip, CancellationToken, Task<ChipRow>> keep
    ) =>
        app.MapPost(
                $"/api/chips/{{id:int}}/{verb}",
                async (int id, T body, WorkOnChip work, CancellationToken stop) =>
                    await SheetAsync(await keep(id, body, work, stop), work, stop)
            )
            .WithSummary(summary)
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);

    private static void Job(
        IEndpointRouteBuilder app,
        string verb,
        string summary,
        Func<int, ChipJob, WorkOnChip, CancellationToken, Task<JobSheet>> begin
    ) =>
        app.MapPost(
                $"/api/chips/{{id:int}}/{verb}",
                async (int id, ChipJob body, WorkOnChip work, CancellationToken stop) =>
                {
                    var job = await begin(id, body, work, stop);
                    return TypedResults.Accepted($"/api/jobs/{job.Id}", job);
                }
            )
            .WithSummary(summary)
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

    private static async Task<ChipSheet> SheetAsync(ChipRow row, WorkOnChip work, CancellationToken stop)
    {
        var state = row.State;
        string? protection = null;
        string? unsupported = null;
        try
        {
            protection = BoardRules.Looks((await work.BoardAsync(row, stop)).Protection);
        }
        catch (RefusedException e)
        {
            unsupported = e.Message;
        }
        return new ChipSheet(
            row.Id,
            row.Tag,
            row.SizeBytes,
            state,
            state.Says,
            state.Starts,
            ChipRules.BeforeWrite(state),
            ChipRules.BeforeRestore(state),
            protection,
            unsupported,
            [.. row.Log.Reverse()]
        );
    }
}
