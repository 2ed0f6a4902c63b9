using FreshBoot.Data.Parts;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Parts;

/// <summary>A part that goes onto the shelf.</summary>
internal sealed record PartIn(PartEntry Part, string By);

/// <summary>A part that changes.</summary>
/// <param name="Part">The part as it is now.</param>
/// <param name="Version">The version that the change was made from.</param>
/// <param name="By">Who says so.</param>
internal sealed record PartChange(PartEntry Part, int Version, string By);

internal static class PartEndpoints
{
    private static readonly string[] Kinds =
    [
        "memory",
        "drive",
        "wireless",
        "graphics",
        "battery",
        "adapter",
        "optical",
        "tpm",
        "other",
    ];

    private static readonly string[] Tests = ["untested", "passed", "failed"];

    public static void MapParts(this IEndpointRouteBuilder app)
    {
        app.MapGet("/api/parts", (PartStore parts) => parts.Parts).WithSummary("The shelf of salvaged parts");
        app.MapPost(
                "/api/parts",
                async (PartIn part, PartStore parts, CancellationToken stop) =>
                {
                    var stored = await parts.AddAsync(Checked(part.Part), Given.Text(part.By, "by", 60), stop);
                    return TypedResults.Created($"/api/parts/{stored.Id}", stored);
                }
            )
            .WithSummary("Puts a part on the shelf")
            .ProducesProblem(StatusCodes.Status400BadRequest);
        app.MapPut(
                "/api/parts/{id:int}",
                async (int id, PartChange change, PartStore parts, CancellationToken stop) =>
                    await parts.ChangeAsync(
                        id,
                        change.Version,
                        Checked(change.Part),
                        Given.Text(change.By, "by", 60),
                        stop
                    )
            )
            .WithSummary("Changes a part: tested, reserved for a machine, fitted in one")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);
    }

    private static PartEntry Checked(PartEntry part)
    {
        if (part.Kind == "memory" && (part.Type is null || part.SizeMiB is not (>= 1 and <= 1 << 20)))
            throw new RefusedException(
                RefusalKind.Invalid,
                "A memory module without type or size fits no machine.",
                "part.type",
                "Its type as machines report it, such as DDR4 SO-DIMM, and its size in MiB."
            );
        return part with
        {
            Kind = OneOf(part.Kind, "part.kind", Kinds),
            Test = OneOf(part.Test, "part.test", Tests),
            About = Given.Text(part.About, "part.about", 120),
            From = Given.Text(part.From, "part.from", 60),
            Type = part.Type is { } type ? Given.Text(type, "part.type", 40) : null,
            ReservedFor = part.ReservedFor is { } tag ? Given.Tag(tag, "part.reservedFor") : null,
            FittedIn = part.FittedIn is { } fitted ? Given.Tag(fitted, "part.fittedIn") : null,
        };
    }

    private static string OneOf(string value, string where, string[] choices) =>
        choices.Contains(value)
            ? value
            : throw new RefusedException(
                RefusalKind.Invalid,
                $"“{value}” is not known.",
                where,
                "One of: " + string.Join(", ", choices) + "."
            );
}
