using FreshBoot.Core.Boards;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Data.Dossiers;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Boards;

/// <summary>A text of settings for a small board.</summary>
/// <param name="Board">Id of the board.</param>
/// <param name="Text">The text.</param>
internal sealed record BoardText(string Board, string Text);

/// <summary>A key of such a text that is set.</summary>
/// <param name="Board">Id of the board.</param>
/// <param name="Text">The text.</param>
/// <param name="Key">The key.</param>
/// <param name="Value">Its value.</param>
internal sealed record BoardSet(string Board, string Text, string Key, string Value);

/// <summary>The small board of a machine.</summary>
/// <param name="Board">The board.</param>
/// <param name="Text">Its settings as somebody wrote them; the usual ones where nobody did.</param>
/// <param name="Own">Whether somebody wrote them.</param>
/// <param name="Verdict">The settings held against what it takes.</param>
internal sealed record BoardSheet(SmallBoard Board, string Text, bool Own, BoardVerdict Verdict);

internal static class BoardEndpoints
{
    private const string Key = "board.settings";
    private const int Longest = 16 << 10;

    public static void MapBoards(this IEndpointRouteBuilder app)
    {
        app.MapGet(
                "/api/machines/{tag}/board",
                async (string tag, MachineStore machines, Shop shop, CancellationToken stop) =>
                {
                    var facts = shop.Dossier(await machines.GetAsync(Given.Tag(tag, "tag"), stop));
                    var board =
                        shop.Catalogue.SmallBoard(facts)
                        ?? throw new RefusedException(
                            RefusalKind.Impossible,
                            "It is no small board that the catalogue knows.",
                            "board",
                            "A board of the catalogue: ports, supply, clock and proved builds are written down there."
                        );
                    var own = facts.Word(Key);
                    var text = own ?? Usual(board);
                    return new BoardSheet(board, text, own is not null, BoardConfig.Check(board, text));
                }
            )
            .WithSummary(
                "The small board of a machine: ports, supply, storage, proved builds, and its settings, checked"
            )
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);

        app.MapGet("/api/boards", (Shop shop) => shop.Catalogue.SmallBoards)
            .WithSummary("Small boards of the catalogue");

        app.MapPost(
                "/api/boards/config/check",
                (BoardText text, Shop shop) => BoardConfig.Check(Of(text.Board, shop), Within(text.Text))
            )
            .WithMetadata(new OnlyReads())
            .WithSummary("What counts of a small board's settings, and what to know of each line")
            .ProducesProblem(StatusCodes.Status400BadRequest);

        app.MapPost(
                "/api/boards/config/set",
                (BoardSet set, Shop shop) =>
                    new BoardText(
                        set.Board,
                        BoardConfig.With(
                            Of(set.Board, shop),
                            Within(set.Text),
                            Given.Text(set.Key, "key", 60),
                            Given.Text(set.Value, "value", 200)
                        )
                    )
            )
            .WithMetadata(new OnlyReads())
            .WithSummary("A small board's settings with a key set; remarks and order stay")
            .ProducesProblem(StatusCodes.Status400BadRequest);
    }

    /// <summary>The settings as the board has them when nobody wrote any, each with what it does.</summary>
    private static string Usual(SmallBoard board) =>
        string.Concat(
            board
                .Keys.Where(k => k.Usual is not null)
                .Select(k =>
                    $"# {k.About}{(k.Unit is { } unit ? $", in {unit}" : "")}{(k.Least is not null ? $", {k.Least} to {k.Most}" : "")}\n{k.Key}={k.Usual}\n\n"
                )
        );

    private static SmallBoard Of(string id, Shop shop) =>
        shop.Catalogue.SmallBoards.FirstOrDefault(b => b.Id == id)
        ?? throw new RefusedException(
            RefusalKind.Invalid,
            $"There is no small board “{id}”.",
            "board",
            "A board of the catalogue."
        );

    private static string Within(string text) =>
        text.Length <= Longest
            ? text
            : throw new RefusedException(
                RefusalKind.Invalid,
                $"The text has {text.Length} signs.",
                "text",
                $"At most {Longest}."
            );
}
