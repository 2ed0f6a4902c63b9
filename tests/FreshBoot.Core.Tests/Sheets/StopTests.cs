using CsCheck;
using FreshBoot.Core.Orders;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Routes;
using FreshBoot.Core.Sheets;

namespace FreshBoot.Core.Tests.Sheets;

/// <summary>Steps of one place and time are one stop; each stays a line of its own.</summary>
public class StopTests
{
    private static readonly Order Same = new(
        "o",
        "Brackwater Library",
        "",
        1,
        null,
        false,
        false,
        false,
        LooksAfter.Owner,
        []
    );

    private static RunSheet Sheet(string system, School school, Order? order, params (string, object?)[] changes)
    {
        var facts = Facts.GoodBut(changes);
        var route = AnySheets
            .Search.Find(facts, new RouteQuestion(AnySheets.Today) { Order = order })
            .First(r => r.System == system && r.School == school);
        var sheet = AnySheets.Of(facts, route, null, order);
        sheet.Missing.ShouldBeEmpty();
        return sheet;
    }

    [Theory]
    [InlineData("wickerwork-26", School.Comply)]
    [InlineData("tessaly-6-r2", School.Comply)]
    [InlineData("canzona-6", School.Comply)]
    [InlineData("driftway", School.Lighten)]
    [InlineData("pebblemoss-32", School.Lighten)]
    [InlineData("plover-light-5", School.Lighten)]
    public void A_clean_plain_install_has_at_most_thirty_stops(string system, School school)
    {
        var stops = Stop.Of(Sheet(system, school, null).Steps);
        stops.Count.ShouldBeLessThanOrEqualTo(30, string.Join('\n', stops.Select(s => $"{s.Title}: {s.Steps[0]}")));
    }

    [Fact]
    public void An_upgrade_in_place_has_at_most_twenty_five_stops()
    {
        var stops = Stop.Of(
            Sheet(
                "tessaly-6-r2",
                School.Comply,
                Same,
                ("os.name", "Tessaly 5"),
                ("os.edition", "Home"),
                ("os.language", "en"),
                ("os.freeBytes", 90_000_000_000L),
                ("os.works", "yes"),
                ("plan.install", "inPlace")
            ).Steps
        );
        stops.Count.ShouldBeLessThanOrEqualTo(25, string.Join('\n', stops.Select(s => $"{s.Title}: {s.Steps[0]}")));
    }

    [Fact]
    public void Acceptance_of_the_devices_is_one_stop_and_each_device_a_line()
    {
        var sheet = Sheet("wickerwork-26", School.Comply, null, ("identity.chassis", "laptop"));
        var devices = Stop.Of(sheet.Steps)
            .Where(s => s.Steps.Any(id => id.StartsWith("devices.", StringComparison.Ordinal)));
        devices.Single().Title.ShouldNotBeNull().ShouldContain("evices");
    }

    [Fact]
    public void Whatever_the_sheet_every_step_is_in_one_stop_and_no_danger_hides_in_a_list()
    {
        Gen.Select(AnyMachines.Picks, Gen.Int[0, 1000])
            .Sample(
                (picks, pick) =>
                {
                    var facts = AnyMachines.Machine(picks);
                    var routes = AnySheets.Search.Find(facts, new RouteQuestion(AnySheets.Today));
                    if (routes.Count == 0)
                        return;
                    var steps = AnySheets.Of(facts, routes[pick % routes.Count]).Steps;
                    var stops = Stop.Of(steps);
                    stops
                        .SelectMany(s => s.Steps)
                        .ShouldBe(steps.Where(s => s.On is null).Select(s => s.Id), "each once, in their order");
                    var byId = steps.ToDictionary(s => s.Id, StringComparer.Ordinal);
                    foreach (var stop in stops)
                    {
                        var lines = stop.Steps.Select(id => byId[id]).ToArray();
                        lines.Length.ShouldBeLessThanOrEqualTo(Stop.MostLines);
                        // What is lost is read before anything of the list is done.
                        lines
                            .Skip(1)
                            .ShouldAllBe(l =>
                                l.Caution == null && l.Kind != StepKind.Confirm && l.Kind != StepKind.Wait
                            );
                        lines
                            .Select(l => l.Where == StepPlace.OtherComputer)
                            .Distinct()
                            .Count()
                            .ShouldBe(1, "one place");
                        stop.IsDanger.ShouldBe(lines[0].Caution != null || lines[0].Kind == StepKind.Confirm);
                    }
                },
                iter: Cases.Of(300)
            );
    }
}
