using System.Globalization;
using System.Text;
using System.Text.Encodings.Web;

namespace FreshBoot.Server.Firmware;

/// <summary>The paper that lies beside the machine while its switches are turned: old values, the order, and the way back.</summary>
internal static class SwitchPaper
{
    /// <summary>One page for print; everything that comes from a machine or a person is encoded.</summary>
    public static string Page(string tag, SwitchesSheet plan)
    {
        string E(string? text) => HtmlEncoder.Default.Encode(text ?? "");
        var page = new StringBuilder();
        page.Append(
            CultureInfo.InvariantCulture,
            $"<!doctype html><html lang=\"en\"><head><meta charset=\"utf-8\"><meta name=\"viewport\" content=\"width=device-width\"><title>{E(tag)} switches</title><style>{Style}</style></head><body><main><h1>{E(tag)}: the switches of its firmware</h1>"
        );
        page.Append(
            CultureInfo.InvariantCulture,
            $"<p>{E(plan.Setup ?? "Open the settings: the first screen names the key")}. {E(plan.SetupFromSystem is { } way ? $"Or: {way}." : "")} Photograph every page before you change one. In doubt leave without saving. <b>Never load defaults of the whole set-up; never clear, reset or restore a TPM.</b></p>"
        );
        page.Append(
            "<h2>As it was found</h2><table><thead><tr><th>switch</th><th>by the dossier</th><th>as it was, by hand</th><th>photo</th></tr></thead><tbody>"
        );
        foreach (var line in plan.Switches.Where(s => s.InSettings))
            page.Append(
                CultureInfo.InvariantCulture,
                $"<tr><td>{E(line.Called)}</td><td>{E(line.PresentSays)}</td><td></td><td>☐</td></tr>"
            );
        page.Append("</tbody></table>");
        Steps("In this order", plan.Steps, plan.WhyNone ?? "Nothing is turned.");
        Steps("The way back", plan.Back, "What was changed has no way back, or nothing was.");
        if (plan.Unmeasured.Count > 0)
            page.Append(
                CultureInfo.InvariantCulture,
                $"<p>Nobody has measured, and it was taken as is usual: {E(string.Join(", ", plan.Unmeasured.Select(Core.Dossiers.FactRegistry.Label)))}.</p>"
            );
        return page.Append("</main></body></html>").ToString();

        void Steps(string title, IReadOnlyList<SwitchStepSheet>? steps, string none)
        {
            page.Append(CultureInfo.InvariantCulture, $"<h2>{E(title)}</h2>");
            if (steps is not { Count: > 0 })
            {
                page.Append(CultureInfo.InvariantCulture, $"<p>{E(none)}</p>");
                return;
            }
            page.Append("<ol>");
            foreach (var step in steps)
            {
                page.Append(
                    CultureInfo.InvariantCulture,
                    $"<li><b>{E(step.Does)}.</b> {E(step.Where is { } where ? $"{where}: from {step.From} to {step.To}." : "")} {E(step.Why)} <span class=\"m\">{step.Minutes} min</span>"
                );
                if (step.Caution is { } caution)
                    page.Append(CultureInfo.InvariantCulture, $"<br><b>Caution.</b> {E(caution)}");
                page.Append("</li>");
            }
            page.Append("</ol>");
        }
    }

    private const string Style = """
        body{font:15px/1.4 "Atkinson Hyperlegible Next",sans-serif;color:#1c2b2d;background:#fbfaf6;margin:0}
        main{max-width:190mm;margin:0 auto;padding:10mm}
        h1{font-size:24px;margin:0}h2{font-size:16px;margin:14px 0 4px;border-bottom:1.5px solid #1c2b2d}
        table{border-collapse:collapse;width:100%}th,td{text-align:left;border-bottom:1px solid #d2cbbc;padding:5px 6px;vertical-align:top}
        td:nth-child(3){width:40mm}td:nth-child(4){width:12mm}
        ol{margin:4px 0;padding-left:24px}li{margin:0 0 6px;break-inside:avoid}.m{color:#566463;white-space:nowrap}
        """;
}
