using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Upkeep;

internal static class UpkeepEndpoints
{
    public static void MapUpkeep(this IEndpointRouteBuilder app)
    {
        app.MapGet("/api/due", (LookAfter after, CancellationToken stop) => after.DueAsync(stop))
            .WithSummary("What falls due of machines that have left, and of orders");

        app.MapGet(
                "/api/calendar.ics",
                async (LookAfter after, CancellationToken stop) =>
                    Results.Text(await after.CalendarAsync(stop), "text/calendar; charset=utf-8")
            )
            .WithSummary("The same as iCalendar (RFC 5545), for a calendar that subscribes to it")
            .Produces<string>(StatusCodes.Status200OK, "text/calendar");

        app.MapGet(
                "/api/machines/{tag}/stay",
                (string tag, TellStay stay, CancellationToken stop) => stay.OfAsync(Given.Tag(tag, "tag"), stop)
            )
            .WithSummary("What a machine that has left, or came back, left with, and what has happened since")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapGet("/api/canaries", (LookAfter after, CancellationToken stop) => after.WatchedAsync(stop))
            .WithSummary(
                "What an update may take away from machines that have left, the machine on which it is tried first, and what the owners hear"
            );

        app.MapPost(
                "/api/catalogue/recall",
                (RecallIn change, LookAfter after, CancellationToken stop) => after.RecallAsync(change, stop)
            )
            .WithMetadata(new OnlyReads())
            .WithSummary(
                "Which machines that have left a changed entry would touch, by what, and a letter to each owner"
            )
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);
    }
}
