using System.Text;
using System.Text.Encodings.Web;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Handover;
using FreshBoot.Core.Ladder;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Runs;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Runs;

namespace FreshBoot.Server.Handover;

/// <summary>Something that was changed on the machine, and why.</summary>
/// <param name="What">What was done.</param>
/// <param name="Why">The finding that asked for it.</param>
internal sealed record Changed(string What, string Why);

/// <summary>The sheet for the new owner.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="Machine">Maker and model.</param>
/// <param name="Serial">Serial number of the casing.</param>
/// <param name="System">What runs on it; null where the machine was retired.</param>
/// <param name="SupportEnds">The last day of updates; null where no end is set.</param>
/// <param name="Hardware">Processor, memory, drive.</param>
/// <param name="Changed">What was changed and why.</param>
/// <param name="Used">What it was installed from: image, recipes, medium, as the record has them.</param>
/// <param name="Despite">Where a step went on without something, and why.</param>
/// <param name="ToKnow">What does not work, or wants knowing.</param>
/// <param name="Acceptance">What was proved.</param>
/// <param name="Open">What is still open; nothing may be.</param>
/// <param name="By">Who did it.</param>
/// <param name="FinishedAt">When it was finished.</param>
internal sealed record HandoverSheet(
    string Tag,
    string Machine,
    string? Serial,
    string? System,
    DateOnly? SupportEnds,
    IReadOnlyList<string> Hardware,
    IReadOnlyList<Changed> Changed,
    IReadOnlyList<string> Used,
    IReadOnlyList<string> Despite,
    IReadOnlyList<string> ToKnow,
    IReadOnlyList<AcceptanceLine> Acceptance,
    IReadOnlyList<string> Open,
    string By,
    DateTimeOffset FinishedAt
);

internal static class HandoverEndpoints
{
    public static void MapHandover(this IEndpointRouteBuilder app) =>
        app.MapGet(
                "/api/machines/{tag}/handover",
                async (
                    string tag,
                    MachineStore machines,
                    RunStore runs,
                    FollowRun follow,
                    Shop shop,
                    HttpContext context
                ) =>
                {
                    var machine = await machines.GetAsync(Given.Tag(tag, "tag"), context.RequestAborted);
                    var run = await runs.LatestOfAsync(machine.Tag, context.RequestAborted);
                    var sheet = Make(machine, run, follow, shop);
                    var accepts = context.Request.GetTypedHeaders().Accept;
                    return accepts.Any(a => a.MediaType.Equals("text/html", StringComparison.OrdinalIgnoreCase))
                        ? Results.Content(Page(sheet, shop.Name), "text/html; charset=utf-8")
                        : Results.Json(sheet);
                }
            )
            .WithSummary("The sheet for the new owner: HTML for print, or JSON, by the Accept header")
            .Produces<HandoverSheet>()
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

    private static HandoverSheet Make(StoredMachine machine, StoredRun? run, FollowRun follow, Shop shop)
    {
        if (run is null)
            throw Refuse("Nothing was done on this machine yet.", "A run that is finished.");
        if (run.BrokenAt is { } at)
            throw Refuse($"The record is broken at event {at}: it proves nothing.", "The record as it was written.");
        var lines = follow.Accept(run, machine);
        string[] open =
        [
            .. run.State.Open.Select(o => $"{o}: close it again"),
            .. run.State.FinishedAt is null
                ? [$"step {run.State.Current + 1} of {run.Steps.Count}: {run.Steps[run.State.Current].Text}"]
                : Array.Empty<string>(),
            .. lines.Where(l => l.Proof != Proof.Proved).Select(l => $"{l.Line}: {l.Says}"),
        ];
        if (open.Length > 0 || run.State.FinishedAt is not { } finished)
            throw Refuse(
                $"Something is still open: {string.Join(" · ", open)}",
                "Every step done, every relaxation closed, every line of the acceptance list proved."
            );

        var first = Derivation.Complete(run.Readings, shop.Catalogue);
        var now = shop.Dossier(machine);
        var system = run.Route.System is { } id ? shop.Catalogue.System(id) : null;
        string? Say(string key) => now[key] is { } value ? FactText.Show(key, value) : null;
        return new HandoverSheet(
            machine.Tag,
            string.Join(' ', new[] { Say("identity.maker"), Say("identity.model") }.OfType<string>()),
            Say("identity.serial"),
            system?.FullName,
            system?.SupportEnds,
            [
                .. new[]
                {
                    Say("cpu.model"),
                    Say("memory.installedMiB") is { } memory ? $"{memory} of memory" : null,
                    Say("storage.0.sizeBytes") is { } drive ? $"{drive} drive" : null,
                }.OfType<string>(),
            ],
            system is null
                ? []
                :
                [
                    .. run.Route.Cures.Select(c => new Changed(
                        c.Does,
                        Why(c.Id, shop.Now.Evaluator.Assess(first, system, new Plan(shop.Today)))
                    )),
                ],
            [
                .. run
                    .Events.Select(e => e.Data.GetValueOrDefault("used"))
                    .OfType<string>()
                    .SelectMany(u => u.Split("; "))
                    .Where(u => u.Length > 0)
                    .Distinct(StringComparer.Ordinal),
            ],
            run.State.Otherwise,
            run.Route.Caveats,
            lines,
            [],
            run.By,
            finished
        );
    }

    private static string Why(string cure, Assessment before) =>
        before
            .Rungs.SelectMany(r => r.Findings)
            .Where(f => f.Cures.Any(c => c.Id == cure))
            .Select(f => $"asked for {f.Needed}, had {(f.Found.Length == 0 ? "nothing of it" : f.Found)}")
            .FirstOrDefault()
        ?? "";

    private static RefusedException Refuse(string what, string wanted) =>
        new(RefusalKind.Conflict, what, "handover", wanted);

    /// <summary>A plain page that prints on one sheet; everything that comes from a machine or a person is encoded.</summary>
    private static string Page(HandoverSheet sheet, string shop)
    {
        var page = new StringBuilder();
        string E(string? text) => HtmlEncoder.Default.Encode(text ?? "");
        void List(string title, IEnumerable<string> items, string none)
        {
            page.Append($"<h2>{E(title)}</h2><ul>");
            foreach (var item in items.DefaultIfEmpty(none))
                page.Append($"<li>{E(item)}</li>");
            page.Append("</ul>");
        }

        page.Append(
            $"<!doctype html><html lang=\"en\"><head><meta charset=\"utf-8\"><meta name=\"viewport\" content=\"width=device-width\"><title>{E(sheet.Tag)} hand-over</title><style>{Style}</style></head><body><main>"
        );
        page.Append(
            $"<header><h1>{E(sheet.System is null ? "This machine has ended." : $"Your computer runs {sheet.System.Replace(' ', '\u00a0')}.")}</h1><p class=\"plate\"><b>{E(sheet.Tag)}</b> {E(sheet.Machine)} · serial {E(sheet.Serial ?? "not known")}<br>{E(string.Join(" · ", sheet.Hardware))}</p></header>"
        );
        if (sheet.System is not null)
            page.Append(
                $"<p class=\"support\">Updates come until <b>{E(sheet.SupportEnds is { } end ? $"{end:d MMMM yyyy}" : "further notice; no end is set")}</b>.</p>"
            );
        List(
            "What was changed, and why",
            sheet.Changed.Select(c => c.Why.Length > 0 ? $"{c.What}: {c.Why}." : $"{c.What}."),
            "Nothing but the system itself."
        );
        if (sheet.Used.Count > 0)
            List("What it was installed from", sheet.Used, "");
        if (sheet.Despite.Count > 0)
            List("Where the plan was left, and why", sheet.Despite, "");
        List("What to know", sheet.ToKnow, "Nothing special.");
        List(
            "What was tried before it left",
            sheet.Acceptance.Select(l => $"{l.Line}: {l.Says}."),
            "Nothing had to be tried."
        );
        List(
            "For you to do",
            [
                "Set a password of your own at the first start.",
                "Fetch updates when they are offered. If something stops working after one, bring the machine with this sheet.",
            ],
            ""
        );
        page.Append(
            $"<p class=\"foot\">Nothing is left open. Done by {E(sheet.By)}, finished {E($"{sheet.FinishedAt:d MMMM yyyy}")}, {E(shop)}.</p></main></body></html>"
        );
        return page.ToString();
    }

    private const string Style =
        "@font-face{font-family:text;src:url(/fonts/text.woff2);font-weight:200 800}@font-face{font-family:name;src:url(/fonts/name.woff2);font-weight:200 800}body{font:16px/1.45 text,system-ui,sans-serif;color:#1c2b2d;background:#f4f1ea;margin:0}main{max-width:46rem;margin:2rem auto;padding:0 1.5rem}h1,.plate b{font-family:name,text,sans-serif}h1{font-size:2.5rem;line-height:1.05;margin:0 0 1rem}h2{font-size:1.05rem;margin:1.3rem 0 .3rem;border-top:1px solid #1c2b2d;padding-top:.6rem}ul{margin:0;padding-left:1.1rem}.plate{border:2px solid #1c2b2d;background:#fbfaf6;padding:.7rem 1rem}.plate b{font-size:1.5rem;margin-right:.6rem}.support{font-size:1.2rem}.foot{border-top:1px solid #1c2b2d;margin-top:1.6rem;padding-top:.6rem;color:#566463}@media print{body{background:#fff}main{margin:0}}";
}
