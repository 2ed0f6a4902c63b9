using System.Globalization;
using FreshBoot.Data.Images;
using FreshBoot.Server.Hosting;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Server.Kestrel.Core.Features;

namespace FreshBoot.Server.Images;

/// <summary>The bytes of an image: in by pieces that follow on each other, out in ranges.</summary>
internal static class ContentEndpoints
{
    public static void MapImageContent(this IEndpointRouteBuilder app)
    {
        app.MapMethods(
                "/api/images/{id:int}/content",
                ["HEAD"],
                async (int id, ImageStore store, ImageUploads uploads, HttpContext context, CancellationToken stop) =>
                {
                    var image = await store.GetAsync(id, stop);
                    var headers = context.Response.Headers;
                    headers["Upload-Offset"] = image.Received.ToString(CultureInfo.InvariantCulture);
                    headers["Upload-Length"] = image.SizeBytes.ToString(CultureInfo.InvariantCulture);
                    headers["Upload-Complete"] = image.Sha256 is null ? "?0" : "?1";
                    if (await uploads.EndsAsync(image, stop) is { } ends)
                        headers["Upload-Ends"] = ends;
                    return TypedResults.Ok();
                }
            )
            .WithSummary(
                "How much of an image is here: headers Upload-Offset, Upload-Length and Upload-Complete, and Upload-Ends: SHA-256 over the first and the last MiB of it"
            )
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapPut("/api/images/{id:int}/content", PutAsync)
            .WithMetadata(new OnlyReads(), new DisableRequestSizeLimitAttribute())
            .TakesBody(
                "application/octet-stream",
                "Bytes of the image from the offset that Content-Range names, or all of it without one; with “bytes */SIZE” none, to finish an image whose last byte is here."
            )
            .WithSummary("Takes bytes of an image; they follow on what is here")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict)
            .ProducesProblem(StatusCodes.Status507InsufficientStorage);

        app.MapGet(
                "/api/images/{id:int}/content",
                async (int id, ImageStore store, CancellationToken stop) =>
                {
                    var image = await store.GetWholeAsync(id, stop);
                    return Results.File(
                        store.PathOf(id),
                        "application/octet-stream",
                        image.Name,
                        enableRangeProcessing: true
                    );
                }
            )
            .WithSummary("The bytes of an image, in ranges if wanted")
            .Produces<byte[]>(contentType: "application/octet-stream")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);
    }

    private static async Task<ImageSheet> PutAsync(
        int id,
        HttpRequest request,
        ImageStore store,
        ImageUploads uploads,
        ImageShelf shelf,
        Changes changes,
        CancellationToken stop
    )
    {
        // A line of the workshop may be slow: what counts is that bytes come at all.
        if (request.HttpContext.Features.Get<IHttpMinRequestBodyDataRateFeature>() is { } rate)
            rate.MinDataRate = null;
        var stored = await uploads.TakeAsync(id, await OffsetAsync(id, request, store, stop), request.Body, stop);
        if (stored.Whole)
            changes.Tell("all", "");
        return await shelf.OneAsync(stored.Id, CancellationToken.None);
    }

    /// <summary>Where the bytes of a request begin, after its Content-Range (RFC 9110, section 14.4); null where it only wants to finish.</summary>
    private static async Task<long?> OffsetAsync(int id, HttpRequest request, ImageStore store, CancellationToken stop)
    {
        if (request.Headers.ContentRange.ToString() is not { Length: > 0 } text)
            return 0;
        var image = await store.GetAsync(id, stop);
        if (
            System.Net.Http.Headers.ContentRangeHeaderValue.TryParse(text, out var range)
            && range.Unit == "bytes"
            && (range.Length ?? image.SizeBytes) == image.SizeBytes
            && (range.HasRange || request.ContentLength is null or 0)
        )
            return range.From;
        throw new RefusedException(
            RefusalKind.Invalid,
            $"“{text}” is no range of this image.",
            "Content-Range",
            $"bytes {image.Received}-…/{image.SizeBytes}"
        );
    }
}
