using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Upkeep;

namespace FreshBoot.Core.Tests.Upkeep;

/// <summary>What is asked anew of a machine that comes back.</summary>
public class ComingBackTests
{
    private static Reading Said(string key, string value, Origin origin = Origin.Entered) =>
        new(key, FactValue.Of(value), "said", origin, Facts.Noon, "Pim");

    [Fact]
    public void Whatever_people_said_of_leave_data_parts_and_wishes_holds_no_longer()
    {
        foreach (var key in FactRegistry.All.Select(d => d.Key))
        {
            var facts = Dossier.From([Said(key, "x"), Said(key, "y", Origin.Chosen)]);
            var unsaid = ComingBack.Unsaid(facts);
            if (key.Split('.')[0] is "release" or "parts" or "plan")
                unsaid.ShouldBe([key]);
        }
    }

    [Fact]
    public void What_was_probed_stays_and_so_does_what_the_machine_is()
    {
        var facts = Dossier.From([
            Said("parts.battery", "sound"),
            Said("parts.storage", "sound", Origin.Probed),
            Said("identity.serial", "BW-1"),
            Said("handover.language", "de"),
            Said("release.data", "not-wanted"),
            Said("order.name", "Seed Library"),
        ]);
        ComingBack.Unsaid(facts).ShouldBe(["release.data", "parts.battery", "order.name"], ignoreOrder: true);
    }

    [Fact]
    public void What_nobody_has_answered_since_is_still_asked()
    {
        ComingBack.StillAsked(Dossier.Empty).ShouldContain("release.data");
        ComingBack.StillAsked(Dossier.From([Said("release.data", "saved")])).ShouldNotContain("release.data");
    }
}
