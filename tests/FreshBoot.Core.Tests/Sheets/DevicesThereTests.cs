using FreshBoot.Core.Routes;
using FreshBoot.Core.Sheets;

namespace FreshBoot.Core.Tests.Sheets;

/// <summary>Nothing is asked of a part that is not there, and of one that nobody knows it is one question.</summary>
public class DevicesThereTests
{
    private static string[] Steps(params (string, object?)[] changes)
    {
        var facts = Facts.GoodBut(changes);
        var route = AnySheets
            .Search.Find(facts, new RouteQuestion(AnySheets.Today))
            .First(r => r.System == "wickerwork-26" && r.School == School.Comply);
        return
        [
            .. AnySheets
                .Of(facts, route)
                .Steps.Where(s => s.Fragment == "devices" && s.On is null)
                .Select(s => s.Id["devices.".Length..]),
        ];
    }

    [Fact]
    public void A_tower_has_no_lid_no_touch_pad_and_no_camera_that_nobody_saw()
    {
        var steps = Steps(
            ("identity.chassis", "tower"),
            ("audio.0.model", "Orlop sound"),
            ("network.0.model", "Netherby NB-12"),
            ("network.0.kind", "wired")
        );
        steps.ShouldBe(["sound-socket", "wired", "mouse", "keys-plugged", "scale", "sleep-menu", "clock"]);
        Steps(("identity.chassis", "tower"), ("camera.0.model", "Sill camera")).ShouldContain("camera");
    }

    [Fact]
    public void A_laptop_is_asked_once_about_what_its_dossier_does_not_name()
    {
        var steps = Steps(
            ("identity.chassis", "laptop"),
            ("camera.0.model", "Sill camera"),
            ("network.0.model", "Netherby NB-12"),
            ("network.0.kind", "wireless")
        );
        steps.ShouldContain("camera");
        steps.ShouldContain("wireless");
        steps.ShouldNotContain("wired");
        steps.ShouldNotContain("bluetooth");
        steps.ShouldNotContain("touch");
        steps.Count(s => s == "unsure").ShouldBe(1);
        Steps(
                ("identity.chassis", "laptop"),
                ("camera.0.model", "Sill camera"),
                ("bluetooth.0.model", "Airlath radio"),
                ("network.0.model", "Netherby NB-12"),
                ("network.0.kind", "wireless")
            )
            .ShouldNotContain("unsure");
        Steps(("identity.chassis", "convertible")).ShouldContain("touch");
    }

    [Fact]
    public void A_bare_board_has_no_lid_and_does_not_sleep()
    {
        var there = DevicesThere
            .Of(
                Facts.GoodBut(("identity.chassis", "board")),
                AnySheets.Search.Find(Facts.GoodBut(), new RouteQuestion(AnySheets.Today))[0],
                isBoard: true
            )
            .There;
        there.ShouldNotContain("lid");
        there.ShouldNotContain("sleep");
        there.ShouldContain("plugged");
        there.ShouldAllBe(w => DevicesThere.Words.Contains(w));
    }
}
