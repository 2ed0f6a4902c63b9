using System.Text;
using System.Text.Encodings.Web;
using FreshBoot.Core.Handover;

namespace FreshBoot.Server.Handover;

/// <summary>The sheet for the new owner as a page.</summary>
internal static class HandoverPage
{
    /// <summary>A plain page that prints on one sheet or two; everything that comes from a machine or a person is encoded.</summary>
    public static string Of(OwnerSheet sheet)
    {
        var page = new StringBuilder();
        string E(string text) => HtmlEncoder.Default.Encode(text);
        page.Append(
            $"<!doctype html><html lang=\"{E(sheet.Language)}\"><head><meta charset=\"utf-8\"><meta name=\"viewport\" content=\"width=device-width\"><title>{E(sheet.Tag)} · {E(sheet.Title)}</title><style>{Style}</style></head><body><main>"
        );
        page.Append(
            $"<header><h1>{E(sheet.Title)}</h1><p class=\"plate\"><b>{E(sheet.Tag)}</b> {string.Join("<br>", sheet.Plate.Where(p => p.Length > 0).Select(E))}</p></header><div class=\"parts\">"
        );
        foreach (var part in sheet.Parts)
        {
            page.Append($"<section class=\"{E(part.Id)}\"><h2>{E(part.Title)}</h2>");
            if (part.Id == OwnerSheet.TriedPart)
                page.Append($"<p>{E(string.Join(' ', part.Items))}</p>");
            else
                page.Append($"<ul>{string.Concat(part.Items.Select(i => $"<li>{E(i)}</li>"))}</ul>");
            page.Append("</section>");
        }
        page.Append($"</div><p class=\"foot\">{E(sheet.Foot)}</p></main></body></html>");
        return page.ToString();
    }

    private const string Style =
        "@font-face{font-family:text;src:url(/fonts/text.woff2);font-weight:200 800}@font-face{font-family:name;src:url(/fonts/name.woff2);font-weight:200 800}body{font:15px/1.42 text,system-ui,sans-serif;color:#1c2b2d;background:#f4f1ea;margin:0}main{max-width:52rem;margin:2rem auto;padding:0 1.5rem}h1,.plate b{font-family:name,text,sans-serif}h1{font-size:2.5rem;line-height:1.05;margin:0 0 1rem}.parts{columns:2;column-gap:2rem}section{break-inside:avoid;margin:0 0 1rem}.tried{break-inside:auto;font-size:13px}h2{font-size:1.05rem;margin:0 0 .3rem;border-top:1px solid #1c2b2d;padding-top:.5rem}ul{margin:0;padding-left:1.1rem}section p{margin:0}.plate{border:2px solid #1c2b2d;background:#fbfaf6;padding:.7rem 1rem}.plate b{font-size:1.5rem;margin-right:.6rem}.foot{border-top:1px solid #1c2b2d;margin-top:1rem;padding-top:.6rem;color:#566463}@media(max-width:640px){.parts{columns:1}}@media print{@page{margin:14mm}body{background:#fff;font-size:11pt}.tried{font-size:9.5pt}main{margin:0;padding:0;max-width:none}.plate{background:#fff}}";
}
