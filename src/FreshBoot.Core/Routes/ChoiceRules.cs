using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Routes;

/// <summary>Which routes the answers to the questions of <see cref="Choices"/> leave standing.</summary>
internal static class ChoiceRules
{
    /// <summary>Whether the answers in the dossier let a route to <paramref name="system"/> stand.</summary>
    public static bool Admit(IFacts facts, SystemEntry system, School school)
    {
        var lifts = school is School.Patch or School.Spoof or School.Reflash;
        var light = system.Class is SystemClass.Light or SystemClass.BrowserFirst;
        return facts.Word("plan.rules") switch
            {
                "meet" => !lifts,
                "lift" => lifts,
                _ => true,
            }
            && facts.Word("plan.system") switch
            {
                "big" => !light,
                "light" => light,
                _ => true,
            }
            && (facts.Word("plan.image") != "whole" || system.Trust != Trust.ThirdParty)
            && (facts.Word("plan.image") != "trimmed" || system.Trust is Trust.ThirdParty or Trust.Own)
            && (facts.Word("plan.privacy") != "noAccount" || system.Account != Asked.Required)
            // Legacy boot beside the maker's firmware carries light systems only.
            && (facts.Word("plan.firmware") != "keep" || school != School.Reflash || light);
    }
}
