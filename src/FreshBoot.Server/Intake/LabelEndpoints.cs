using System.Text;
using System.Text.Encodings.Web;
using FreshBoot.Core.Dossiers;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;
using QRCoder;

namespace FreshBoot.Server.Intake;

internal static class LabelEndpoints
{
    private const int Most = 500;

    public static void MapLabels(this IEndpointRouteBuilder app) =>
        app.MapGet(
                "/api/labels",
                async (string[]? tag, MachineIndex index, Shop shop, CancellationToken stop) =>
                {
                    var tags = (tag ?? []).Select(t => Given.Tag(t, "tag")).ToArray();
                    if (tags.Length is 0 or > Most)
                        throw new RefusedException(
                            RefusalKind.Invalid,
                            $"{tags.Length} tags came with it.",
                            "tag",
                            $"1 to {Most} tags."
                        );
                    // Labels are also printed before a machine is taken in: the tag is all that they need.
                    var known = await index.DossiersAsync(tags, stop);
                    return Results.Content(
                        Page(tags.Select(t => (t, known.GetValueOrDefault(t) ?? Dossier.Empty)), shop.Name),
                        "text/html; charset=utf-8"
                    );
                }
            )
            .WithSummary("Labels to print: the tag as QR code and in letters that a scanner and a person read")
            .Produces<string>(contentType: "text/html")
            .ProducesProblem(StatusCodes.Status400BadRequest);

    /// <summary>A sheet of labels of 62 × 29 mm each; black on white, since scanners want contrast.</summary>
    private static string Page(IEnumerable<(string Tag, Dossier Dossier)> machines, string shop)
    {
        var encode = HtmlEncoder.Default;
        var page = new StringBuilder(
            """
            <!DOCTYPE html><html lang="en"><head><meta charset="utf-8"><title>Labels</title><style>
            @page { margin: 8mm }
            body { margin: 8mm; font-family: "Atkinson Hyperlegible Next", sans-serif; color: #000; background: #fff }
            ul { display: grid; grid-template-columns: repeat(auto-fill, 62mm); gap: 3mm; padding: 0; margin: 0; list-style: none }
            li { display: flex; gap: 3mm; width: 62mm; height: 29mm; box-sizing: border-box; border: .2mm solid #999; padding: 2mm; break-inside: avoid }
            svg { width: 24mm; height: 24mm; flex: none }
            b { display: block; font-size: 6mm; line-height: 1; white-space: nowrap }
            p { margin: 1mm 0 0; font-size: 3mm; line-height: 1.25; overflow: hidden }
            @media print { body { margin: 0 } }
            </style></head><body><ul>
            """
        );
        foreach (var (tag, dossier) in machines)
        {
            var about = MachineName.Of(dossier);
            page.Append("<li>")
                .Append(Qr(tag))
                .Append("<div><b>")
                .Append(encode.Encode(tag))
                .Append("</b><p>")
                .Append(encode.Encode(about))
                .Append("</p><p>")
                .Append(encode.Encode(dossier.Word("identity.serial") ?? ""))
                .Append("</p><p>")
                .Append(encode.Encode(shop))
                .Append("</p></div></li>");
        }
        return page.Append("</ul></body></html>").ToString();
    }

    /// <summary>
    /// The tag as QR code. Level M: a label on a machine gets scratched. All letters of a tag are in the code's alphanumeric
    /// mode, so the signs stay large.
    /// </summary>
    private static string Qr(string tag)
    {
        using var data = new QRCodeGenerator().CreateQrCode(tag, QRCodeGenerator.ECCLevel.M);
        return new SvgQRCode(data).GetGraphic(
            1,
            "#000000",
            "#ffffff",
            drawQuietZones: true,
            SvgQRCode.SizingMode.ViewBoxAttribute
        );
    }
}
