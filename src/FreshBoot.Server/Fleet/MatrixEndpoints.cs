using System.Text;
using FreshBoot.Core.Exchange;
using FreshBoot.Core.Planning;
using FreshBoot.Server.Dossiers;

namespace FreshBoot.Server.Fleet;

/// <summary>A machine in the matrix.</summary>
/// <param name="Tag">Its asset tag.</param>
/// <param name="Maker">Its maker.</param>
/// <param name="Model">Its model.</param>
/// <param name="Order">The order it is for.</param>
/// <param name="Bay">The bay it stands in.</param>
/// <param name="Outcomes">How each system stands, in the order of the matrix.</param>
internal sealed record MatrixRow(
    string Tag,
    string? Maker,
    string? Model,
    string? Order,
    int? Bay,
    IReadOnlyList<Outcome> Outcomes
);

/// <summary>A system in the matrix.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">Its name.</param>
internal sealed record MatrixColumn(string Id, string Name);

/// <summary>Machines against systems.</summary>
/// <param name="Systems">The columns.</param>
/// <param name="Machines">The rows, by tag.</param>
internal sealed record Matrix(IReadOnlyList<MatrixColumn> Systems, IReadOnlyList<MatrixRow> Machines);

internal static class MatrixEndpoints
{
    private const int Bought = 5;

    public static void MapMatrix(this IEndpointRouteBuilder app)
    {
        app.MapGet(
                "/api/matrix",
                async (HttpRequest request, MachineIndex index, CancellationToken stop) =>
                {
                    var (now, rows) = await index.MatrixAsync(stop);
                    var matrix = new Matrix(
                        [.. now.Catalogue.Systems.Select(s => new MatrixColumn(s.Id, s.FullName))],
                        rows
                    );
                    return request.GetTypedHeaders().Accept.FirstOrDefault()?.MediaType.Value == "text/csv"
                        ? Results.File(
                            Encoding.UTF8.GetBytes(Table(matrix)),
                            "text/csv; charset=utf-8",
                            "fresh-boot-matrix.csv"
                        )
                        : Results.Ok(matrix);
                }
            )
            .WithSummary("Every machine against every system, as JSON or, with Accept: text/csv, as a table")
            .Produces<Matrix>(StatusCodes.Status200OK, "application/json", "text/csv");
        app.MapGet(
                "/api/matrix/parts",
                async (MachineIndex index, CancellationToken stop) =>
                    PartsThatOpen.Rank(await index.OpensAsync(stop), Bought)
            )
            .WithSummary(
                "Which part, bought five times, opens most: systems that become clear over the five best machines"
            );
    }

    private static string Table(Matrix matrix) =>
        MachineCsv.Table(
            ["tag", "maker", "model", "order", .. matrix.Systems.Select(s => s.Id)],
            matrix.Machines.Select(m =>
                (IReadOnlyList<string>)
                    [
                        m.Tag,
                        m.Maker ?? "",
                        m.Model ?? "",
                        m.Order ?? "",
                        .. m.Outcomes.Select(o => o.ToString().ToLowerInvariant()),
                    ]
            )
        );
}
