using FreshBoot.Core.Identity;
using FreshBoot.Core.Preparation;
using FreshBoot.Data.Identity;
using FreshBoot.Formats.Smbios;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Identity;

internal static class IdentityEndpoints
{
    public static void MapIdentity(this IEndpointRouteBuilder app)
    {
        app.MapGet("/api/identity-levels", () => IdentityProfile.Levels)
            .WithSummary("How much of another identity a machine can take, what each opens and what it breaks");

        app.MapGet(
                "/api/machines/{tag}/donors",
                (string tag, string? system, GiveIdentity give, CancellationToken stop) =>
                    give.DonorsAsync(Given.Tag(tag, "tag"), system, stop)
            )
            .WithSummary("The models whose identity a machine may take for a system, the nearest first; none is a wall")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapGet(
                "/api/machines/{tag}/identity",
                async (string tag, IdentityStore identities, CancellationToken stop) =>
                    (await identities.OfAsync(Given.Tag(tag, "tag"), stop)).Select(IdentitySheet.Of)
            )
            .WithSummary("The identities that the shop gave a machine, the latest last");

        app.MapPost(
                "/api/machines/{tag}/identity",
                async (string tag, IdentityIn wish, GiveIdentity give, CancellationToken stop) =>
                {
                    var given = await give.DoAsync(Given.Tag(tag, "tag"), wish, stop);
                    return TypedResults.Created(
                        $"/api/machines/{tag}/identity/{given.Id}/json",
                        IdentitySheet.Of(given)
                    );
                }
            )
            .WithSummary("Gives a machine an identity: a fresh serial number and id where the level wants them")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapGet(
                "/api/machines/{tag}/identity/{id:int}/smbios.bin",
                async (string tag, int id, string? entry, bool? original, GiveIdentity give, CancellationToken stop) =>
                {
                    var known = Given.Tag(tag, "tag");
                    var table = await give.TableAsync(known, id, stop);
                    return Results.File(
                        table.File(original == true, EntryOf(entry)),
                        "application/octet-stream",
                        $"{known}-smbios{(original == true ? "-original" : "")}.bin"
                    );
                }
            )
            .WithSummary("The machine's own SMBIOS table with the identity in it, or as it was")
            .Produces<byte[]>(contentType: "application/octet-stream")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);

        app.MapGet(
                "/api/machines/{tag}/identity/{id:int}/diff",
                async (string tag, int id, GiveIdentity give, CancellationToken stop) =>
                {
                    var table = await give.TableAsync(Given.Tag(tag, "tag"), id, stop);
                    return new IdentityDiff(
                        table.Differences,
                        table.Missing,
                        table.Made,
                        "The loader without the identity: the machine’s own table is never written over. A copy of it stands beside this one."
                    );
                }
            )
            .WithSummary("What the identity changes in the machine's table, field by field, and the way back")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);

        foreach (var form in (string[])["json", "plist"])
            app.MapGet(
                    $"/api/machines/{{tag}}/identity/{{id:int}}/{form}",
                    async (string tag, int id, IdentityStore identities, CancellationToken stop) =>
                    {
                        var given = await identities.GetAsync(Given.Tag(tag, "tag"), id, stop);
                        var file = PreparedFiles.Of(given).First(f => f.Name.EndsWith(form, StringComparison.Ordinal));
                        return Results.File(file.Bytes, file.MediaType, file.Name);
                    }
                )
                .WithSummary($"The identity for the loader's configuration, as {form}")
                .Produces<object>(contentType: form == "json" ? "application/json" : "application/xml")
                .ProducesProblem(StatusCodes.Status404NotFound);
    }

    private static SmbiosEntry? EntryOf(string? entry) =>
        entry switch
        {
            null => null,
            "bare" => SmbiosEntry.Bare,
            "32" => SmbiosEntry.Bits32,
            "64" => SmbiosEntry.Bits64,
            _ => throw new RefusedException(
                RefusalKind.Invalid,
                $"There is no entry point “{entry}”.",
                "entry",
                "bare, 32 or 64"
            ),
        };
}
