using System.Text;
using System.Text.Encodings.Web;
using FreshBoot.Core.Handover;

namespace FreshBoot.Server.Handover;

/// <summary>The sheet for the new owner as a page.</summary>
internal static class HandoverPage
{
    /// <summary>A plain page that prints on one sheet; everything that comes from a machine or a person is encoded.</summary>
    public static string Of(HandoverSheet sheet, string shop)
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
        List("What to know", sheet.ToKnow, "Nothing: everything that was asked for is there.");
        List(
            "What was tried before it left",
            sheet.Acceptance.Select(l => l.Proof == Proof.Accepted ? $"{l.ForOwner} ({l.Says}.)" : l.ForOwner),
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
