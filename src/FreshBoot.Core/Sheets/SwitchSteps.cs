using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Firmware;
using FreshBoot.Core.Preparation;
using FreshBoot.Core.Procedures;

namespace FreshBoot.Core.Sheets;

/// <summary>
/// The steps inside the settings of a firmware: one for each switch of the plan, in its order, under the words of the maker. A procedure
/// says what a hand does at a switch; which switches there are, and when, only the plan knows.
/// </summary>
internal static class SwitchSteps
{
    /// <summary>The steps that a placeholder step stands for; the step itself where it stands for none.</summary>
    /// <param name="step">The step.</param>
    /// <param name="question">What the sheet is for.</param>
    /// <param name="belongs">Whether a step of a procedure belongs to this route.</param>
    public static IEnumerable<StepEntry> Of(StepEntry step, SheetQuestion question, Func<StepEntry, bool> belongs) =>
        step.Each switch
        {
            EachSwitch.Turn => (question.Switches?.InSettings ?? []).SelectMany(s => Turned(s, question, belongs)),
            EachSwitch.Back => (question.Switches?.Closing ?? []).SelectMany(s => Turned(s, question, belongs)),
            _ => [step],
        };

    private static IEnumerable<StepEntry> Turned(
        SwitchStep turned,
        SheetQuestion question,
        Func<StepEntry, bool> belongs
    )
    {
        var all = question.Catalogue.Procedures;
        var procedure =
            all.FirstOrDefault(p => p.Switch == turned.Switch && p.SwitchTo == turned.To)
            ?? all.FirstOrDefault(p => p.Switch == turned.Switch && p.SwitchTo is null)
            ?? all.FirstOrDefault(p => p.Switch == ProcedureEntry.AnySwitch);
        if (procedure is null)
            yield break;
        var words = question.Switches!;
        var label = MachineSwitches.Called(turned.Switch, words.Labels);
        var to = FirmwareSwitches.Find(turned.Switch)!.Says(turned.To);
        string Say(string text) =>
            text.Replace("{switch}", label, StringComparison.Ordinal)
                .Replace("{switchTo}", to, StringComparison.Ordinal)
                .Replace("{switchWhy}", turned.Why, StringComparison.Ordinal);
        var first = true;
        foreach (var step in procedure.Steps.Where(belongs))
        {
            var does = new Dictionary<string, string>(step.Does, StringComparer.Ordinal);
            if (first && Word(turned) is var (key, value))
                does[key] = value;
            var needs = new Dictionary<string, IReadOnlyList<string>>(step.Needs, StringComparer.Ordinal);
            if (SealsMeasure(turned.Switch))
                needs["encryption"] = question.Over ? ["none", "suspended"] : ["none", "keySeen", "suspended"];
            if (first && IsOfferedByUpdate(turned, words))
                needs["firmware"] = ["updated"];
            yield return Said(step, $"{turned.Switch}-{turned.To}-", Say) with
            {
                Caution = step.Caution is { } own ? Say(own) : turned.Caution,
                Minutes = first
                    ? step.Minutes with
                    {
                        Usual = Math.Max(step.Minutes.Usual, turned.Minutes),
                    }
                    : step.Minutes,
                Does = does,
                Needs = needs,
                Leaves = first ? Leaves(turned, question) : step.Leaves,
            };
            first = false;
        }
    }

    /// <summary>The facts of the cures that are this switch.</summary>
    private static Dictionary<string, FactValue> Leaves(SwitchStep turned, SheetQuestion question)
    {
        var left = new Dictionary<string, FactValue>(StringComparer.Ordinal);
        foreach (var cure in question.Route.Cures.Where(c => SwitchesOfRoute.Turns(c, turned.Switch, turned.To)))
        foreach (var (key, value) in cure.Sets!)
            left[key] = value;
        return left;
    }

    private static StepEntry Said(StepEntry step, string prefix, Func<string, string> say) =>
        step with
        {
            Id = prefix + step.Id,
            Text = say(step.Text),
            Expect = step.Expect is { } expect ? say(expect) : null,
            Harmless = [.. step.Harmless.Select(say)],
            Branches =
            [
                .. step.Branches.Select(b =>
                    b with
                    {
                        When = say(b.When),
                        Stop = b.Stop is { } stop ? say(stop) : null,
                        Then = [.. b.Then.Select(t => Said(t, prefix, say))],
                    }
                ),
            ],
        };

    /// <summary>Whether the keys that a drive is sealed with change with a switch (TCG PC Client Platform Firmware Profile, 3.3.4: PCR 0 to 7).</summary>
    private static bool SealsMeasure(string key) =>
        key
            is FirmwareSwitches.Mode
                or FirmwareSwitches.Compatibility
                or FirmwareSwitches.SecureBoot
                or FirmwareSwitches.Keys
                or FirmwareSwitches.Tpm;

    /// <summary>Whether a switch shows only once the maker's firmware was updated: the plan of the switches updates it for that one.</summary>
    private static bool IsOfferedByUpdate(SwitchStep turned, SwitchesOfRoute switches) =>
        (turned.Switch, turned.To) == (FirmwareSwitches.Tpm, "firmware")
        && (switches.Plan.Steps ?? []).Any(s => s.Switch == FirmwareSwitches.Version);

    /// <summary>What a turned switch is in the small world; null for one that it does not speak of.</summary>
    private static (string Key, string Value)? Word(SwitchStep turned) =>
        (turned.Switch, turned.To) switch
        {
            (FirmwareSwitches.Mode, var to) => ("bootMode", to),
            (FirmwareSwitches.SecureBoot, "on" or "off") => ("secureBoot", turned.To),
            (FirmwareSwitches.Tpm, "firmware" or "module") => ("tpm", "on"),
            (FirmwareSwitches.Tpm, "off") => ("tpm", "off"),
            (FirmwareSwitches.UsbStart, "allowed" or "forbidden") => ("usbStart", turned.To),
            _ => null,
        };
}
