using System.Globalization;
using System.Net;
using System.Text;
using FreshBoot.Core.Procedures;

namespace FreshBoot.Server.Sheets;

/// <summary>What stands over a printed sheet.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="Machine">Maker and model, as far as known.</param>
/// <param name="Aim">What the machine gets, in one line.</param>
/// <param name="Shop">The shop's name.</param>
/// <param name="Day">The day on which it was composed.</param>
internal sealed record SheetHead(string Tag, string Machine, string Aim, string Shop, DateOnly Day);

/// <summary>A sheet on paper, for a bench without a screen: numbered, with boxes to tick, and the ledger at its end.</summary>
internal static class SheetPage
{
    private static readonly Dictionary<StepPlace, string> Places = new()
    {
        [StepPlace.Machine] = "at the machine",
        [StepPlace.Outgoing] = "in the system that is on it",
        [StepPlace.Installer] = "in the installer",
        [StepPlace.System] = "in the new system",
        [StepPlace.OtherComputer] = "at another computer",
        [StepPlace.Programmer] = "at the unlocked command line",
    };

    /// <summary>The page.</summary>
    /// <param name="head">What stands over it.</param>
    /// <param name="steps">The steps, those of branches after the step that branches.</param>
    /// <param name="inShort">One line for each stop, for who has done it often; what can hurt or lose something stands there as ever.</param>
    public static string Of(SheetHead head, IReadOnlyList<Step> steps, bool inShort = false)
    {
        var page = new StringBuilder();
        page.Append(
            $"<!doctype html><html lang=\"en\"><head><meta charset=\"utf-8\"><meta name=\"viewport\" content=\"width=device-width\"><title>{E(head.Tag)} run sheet</title><style>{Style}</style></head><body><main>"
        );
        var main = steps.Where(s => s.On is null).ToDictionary(s => s.Id, StringComparer.Ordinal);
        var stops = Stop.Of(steps);
        var hands = main.Values.Where(s => s.Kind != StepKind.Wait).Sum(s => s.UsualMinutes);
        var waits = main.Values.Where(s => s.Kind == StepKind.Wait).Sum(s => s.UsualMinutes);
        page.Append(
            CultureInfo.InvariantCulture,
            $"<header><p class=\"plate\"><b>{E(head.Tag)}</b> {E(head.Machine)}</p><h1>{E(head.Aim)}</h1><p>{stops.Count} stops with {main.Count} lines{(inShort ? ", in short" : "")} · about {hands} min of hands and {waits} min of waiting · {head.Day:d MMMM yyyy}, {E(head.Shop)}</p><p class=\"fill\">Who <i></i> Begun <i></i> Ended <i></i></p></header>"
        );
        Rung? rung = null;
        var numbers = new Dictionary<string, string>(StringComparer.Ordinal);
        for (var i = 0; i < stops.Count; i++)
        {
            var lines = stops[i].Steps.Select(id => main[id]).ToArray();
            if (lines[0].Rung != rung)
            {
                if (rung is not null)
                    page.Append("</ol>");
                rung = lines[0].Rung;
                page.Append($"<h2>{E(rung.Value.ToString().ToLowerInvariant())}</h2><ol>");
            }
            for (var line = 0; line < lines.Length; line++)
                numbers[lines[line].Id] = lines.Length == 1 ? $"{i + 1}" : $"{i + 1}.{line + 1}";
            // What is waited for, typed, chosen or tried stands alone, and is as ever.
            if (inShort && !stops[i].IsDanger && lines.Length > 1)
            {
                Brief(page, stops[i], lines, $"{i + 1}");
                continue;
            }
            if (stops[i].Title is { } title)
                page.Append($"<li class=\"stop\">{i + 1} · {E(title)}</li>");
            foreach (var step in lines)
                Step(page, steps, step, numbers[step.Id]);
        }
        if (rung is not null)
            page.Append("</ol>");
        Ledger(page, steps, numbers);
        page.Append("</main></body></html>");
        return page.ToString();
    }

    /// <summary>A list in one line: what is done, and what is entered.</summary>
    private static void Brief(StringBuilder page, Stop stop, Step[] lines, string number)
    {
        var title = stop.Title is { } about ? $"{E(about)}: " : "";
        page.Append(
            $"<li class=\"step\"><span class=\"no\">{number}</span><span class=\"box\"></span><div><p><b>{title}</b>{E(string.Join(' ', lines.Select(l => l.Text)))}</p>"
        );
        if (lines.Any(l => l.Wants is not null))
            page.Append("<p class=\"fill\">Found <i></i></p>");
        page.Append($"</div><span class=\"time\">{lines.Sum(l => l.UsualMinutes)} min</span></li>");
    }

    private static void Step(StringBuilder page, IReadOnlyList<Step> steps, Step step, string number)
    {
        page.Append(
            $"<li class=\"{(step.On is null ? "step" : "step round")}\"><span class=\"no\">{E(number)}</span><span class=\"box\"></span><div><p class=\"do\">{E(step.Text)}</p>"
        );
        if (step.Caution is { } caution)
            page.Append($"<p class=\"caution\"><b>Caution.</b> {E(caution)}</p>");
        if (step.Command is { } command)
            page.Append($"<pre>{E(command)}</pre>");
        if (step.Expect is { } expect)
            page.Append($"<p><b>{(step.Command is null ? "See" : "It prints")}</b> {E(expect)}</p>");
        foreach (var option in step.Options)
            page.Append($"<p class=\"option\"><span class=\"box\"></span>{E(option)}</p>");
        if (step.Harmless.Count > 0)
            page.Append($"<p class=\"quiet\">Harmless: {E(string.Join(' ', step.Harmless))}</p>");
        if (step.Kind == StepKind.Confirm)
            page.Append("<p class=\"fill\">Tag, read off the casing <i></i></p>");
        if (step.Wants is not null)
            page.Append("<p class=\"fill\">Found <i></i></p>");
        for (var b = 0; b < step.Branches.Count; b++)
        {
            var branch = step.Branches[b];
            var letter = (char)('a' + b);
            page.Append($"<div class=\"branch\"><p><b>{E(branch.When)}?</b> ");
            if (branch.Stop is { } stop)
                page.Append($"Stop. {E(stop)}</p>");
            else
            {
                page.Append("Then:</p><ol>");
                var then = branch.Then.Select(id => steps.First(s => s.Id == id)).ToArray();
                for (var t = 0; t < then.Length; t++)
                    Step(page, steps, then[t], $"{number}{letter}{t + 1}");
                page.Append("</ol>");
            }
            page.Append("</div>");
        }
        page.Append($"</div><span class=\"time\">{E(Times(step))}<br>{E(Places[step.Where])}</span></li>");
    }

    private static string Times(Step step) =>
        step.Kind == StepKind.Wait
            ? string.Create(CultureInfo.InvariantCulture, $"waits {step.UsualMinutes} min, worry after {step.Worry}")
            : string.Create(CultureInfo.InvariantCulture, $"{step.UsualMinutes} min");

    /// <summary>What was opened on the way and has to be closed: it stands once more where one looks at the end.</summary>
    private static void Ledger(StringBuilder page, IReadOnlyList<Step> steps, Dictionary<string, string> numbers)
    {
        var open = steps.Where(s => s.Opens is not null && numbers.ContainsKey(s.Id)).ToArray();
        if (open.Length == 0)
            return;
        page.Append("<h2>Opened on the way: closed again?</h2><ul class=\"ledger\">");
        foreach (var step in open)
        {
            var closes = steps.FirstOrDefault(s => s.Closes == step.Opens && numbers.ContainsKey(s.Id));
            page.Append(
                $"<li><span class=\"box\"></span>{E(step.Opens!)}: opened at {numbers[step.Id]}{(closes is null ? "" : $", closed at {numbers[closes.Id]}")}</li>"
            );
        }
        page.Append("</ul>");
    }

    private static string E(string text) => WebUtility.HtmlEncode(text);

    private const string Style = """
        @font-face{font-family:text;src:url(/fonts/text.woff2);font-weight:200 800}
        @font-face{font-family:name;src:url(/fonts/name.woff2);font-weight:200 800}
        @page{size:A4;margin:14mm 14mm 16mm}
        body{font:14px/1.38 text,system-ui,sans-serif;color:#1c2b2d;background:#f4f1ea;margin:0}
        main{max-width:50rem;margin:1.5rem auto;padding:0 1.5rem}
        h1{font:700 1.9rem/1.05 name,text,sans-serif;margin:.6rem 0 .3rem}
        h2{font-size:.95rem;text-transform:uppercase;letter-spacing:.06em;margin:1.1rem 0 0;border-top:2px solid #1c2b2d;padding-top:.35rem;break-after:avoid}
        header p{margin:.2rem 0}
        .plate{border:2px solid #1c2b2d;background:#fbfaf6;padding:.4rem .8rem}
        .plate b{font:700 1.6rem name,text,sans-serif;margin-right:.7rem}
        ol,ul{list-style:none;margin:0;padding:0}
        .step{display:grid;grid-template-columns:2.6rem 1.3rem minmax(0,1fr) 8.5rem;gap:0 .5rem;border-bottom:1px solid #b9b6ab;padding:.4rem 0;break-inside:avoid}
        .round{grid-template-columns:3.2rem 1.3rem minmax(0,1fr);border-bottom:0;padding:.2rem 0}
        .round>.time{display:none}
        .no{font-weight:700}
        .stop{font-weight:700;padding:.5rem 0 .1rem;break-after:avoid}
        .box{display:inline-block;flex:none;width:.95rem;height:.95rem;border:1.5px solid #1c2b2d;margin-top:.12rem}
        p{margin:0 0 .15rem}
        .do{font-weight:700}
        .caution{border-left:4px solid #1c2b2d;padding-left:.5rem}
        .quiet,.time{color:#4a5a59}
        .time{font-size:.82rem;text-align:right}
        .option{display:flex;gap:.5rem}
        .branch{border-left:1.5px solid #8b958f;padding-left:.6rem;margin-top:.2rem}
        .fill i{display:inline-block;width:9rem;border-bottom:1.5px solid #1c2b2d;margin:0 .8rem 0 .3rem}
        .ledger li{display:flex;gap:.5rem;padding:.2rem 0}
        pre{font:13px/1.3 ui-monospace,monospace;white-space:pre-wrap;overflow-wrap:anywhere;border:1px solid #8b958f;padding:.2rem .4rem;margin:.15rem 0}
        @media print{body{background:#fff}main{margin:0;max-width:none;padding:0}}
        """;
}
