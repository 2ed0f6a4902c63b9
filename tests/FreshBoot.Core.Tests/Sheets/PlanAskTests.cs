using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Orders;
using FreshBoot.Core.Preparation;
using FreshBoot.Core.Routes;
using FreshBoot.Core.Sheets;

namespace FreshBoot.Core.Tests.Sheets;

/// <summary>A question on which steps depend is asked; while nobody answers, a step measures, and nothing is taken for granted.</summary>
public class PlanAskTests
{
    /// <summary>Answer file, image and medium, all ready.</summary>
    private static readonly WorkItem[] Made = With(passesAccount: true);

    private static WorkItem[] With(bool passesAccount) =>
        [
            Ready("answers", WorkItemKind.Answers, Rung.Setup) with
            {
                PassesAccount = passesAccount,
            },
            Ready(WorkPlan.ImageItem, WorkItemKind.Image, Rung.Medium),
            Ready(WorkPlan.MediumItem, WorkItemKind.Medium, Rung.Medium),
        ];

    private static WorkItem Ready(string id, WorkItemKind kind, Rung rung) =>
        new(id, kind, rung, id, WorkItemState.Ready, "", true, [], null, []);

    private static SheetQuestion Question(
        string system,
        IReadOnlyList<WorkItem>? items = null,
        Order? order = null,
        params (string, object?)[] changes
    )
    {
        var facts = Facts.GoodBut(changes);
        var route = AnySheets
            .Search.Find(facts, new RouteQuestion(AnySheets.Today) { Order = order })
            .First(r => r.System == system && r.School == School.Comply);
        return AnySheets.Question(facts, route, items, order);
    }

    private static string[] Keys(SheetQuestion question) => [.. PlanAsk.Of(question).Select(a => a.Fact)];

    private static string[] Ids(SheetQuestion question)
    {
        var sheet = RunSheet.Of(question);
        sheet.Missing.ShouldBeEmpty();
        return [.. sheet.Steps.Select(s => s.Id)];
    }

    [Fact]
    public void An_edition_that_nobody_noted_is_looked_up_and_never_the_first_of_the_list()
    {
        var open = Question("tessaly-6-r2", changes: ("os.edition", null));
        Keys(open).ShouldContain("plan.edition");
        var sheet = RunSheet.Of(open);
        sheet.Steps.ShouldNotContain(s => s.Text.Contains("Choose the edition", StringComparison.Ordinal));
        sheet.Steps.Single(s => s.Id == "ask-tessaly.edition-open").Wants.ShouldBe("plan.edition");

        foreach (var key in (string[])["os.edition", "plan.edition"])
        {
            var known = Question("tessaly-6-r2", changes: (key, "Trade"));
            Keys(known).ShouldNotContain("plan.edition");
            RunSheet.Of(known).Steps.Single(s => s.Id == "ask-tessaly.edition").Text.ShouldContain("edition Trade");
        }
        // One that this system does not have says nothing about it.
        Keys(Question("tessaly-6-r2", changes: ("os.edition", "Harbour"))).ShouldContain("plan.edition");
    }

    [Fact]
    public void An_account_that_nobody_chose_is_asked_for_at_its_step()
    {
        var open = Question("tessaly-6-r2");
        Keys(open).ShouldContain("plan.account");
        Ids(open).ShouldContain("first-start.account");
        Ids(open).ShouldNotContain("first-start.local");

        var owner = Question("tessaly-6-r2", changes: ("plan.account", "maker"));
        Keys(owner).ShouldNotContain("plan.account");
        var signs = RunSheet.Of(owner).Steps.Single(s => s.Id == "first-start.maker");
        signs.Branches.ShouldContain(b => b.Stop != null && b.When == "The owner is not here");
        // A system that asks for none has a local one, and no question.
        var none = Question("wickerwork-26");
        Keys(none).ShouldNotContain("plan.account");
        Ids(none).ShouldContain("first-start.local");
    }

    [Fact]
    public void A_local_account_on_a_system_that_insists_on_its_makers_wants_an_answer_file()
    {
        var sheet = RunSheet.Of(Question("tessaly-6-r2", changes: ("plan.account", "local")));
        sheet.Missing.Single().Fragment.ShouldBe("The local account");

        var answered = Question("tessaly-6-r2", Made, changes: ("plan.account", "local"));
        Ids(answered).ShouldContain("first-start.answered");
        Ids(answered).ShouldNotContain("first-start.local");
        RunSheet.Of(answered).Steps.Single(s => s.Id == "first-start.answered").Uses.ShouldBe(["answers"]);
        // Where a local one is offered, a person makes it.
        Ids(Question("tessaly-5", changes: ("plan.account", "local"))).ShouldContain("first-start.local");
    }

    [Fact]
    public void An_answer_file_that_shows_the_page_of_the_account_answers_everything_but_that()
    {
        var shows = With(passesAccount: false);
        RunSheet
            .Of(Question("tessaly-6-r2", shows, changes: ("plan.account", "local")))
            .Missing.Single()
            .Fragment.ShouldBe("The local account");

        var owner = Ids(Question("tessaly-6-r2", shows, changes: ("plan.account", "maker")));
        owner.ShouldContain("first-start.answered-asks");
        owner.ShouldContain("first-start.maker");
        owner.ShouldNotContain("first-start.answered");

        var open = Question("tessaly-6-r2", shows);
        Keys(open).ShouldContain("plan.account");
        Ids(open).ShouldContain("first-start.account");
        Ids(open).ShouldNotContain("first-start.answered");
        Ids(Question("tessaly-5", shows, changes: ("plan.account", "local"))).ShouldContain("first-start.local");
    }

    [Fact]
    public void Encryption_and_keeping_what_is_there_are_asked_where_they_can_be_chosen()
    {
        Keys(Question("tessaly-6-r2")).ShouldContain("plan.encryption");
        Keys(Question("tessaly-6-r2", changes: ("plan.encryption", "off"))).ShouldNotContain("plan.encryption");

        (string, object?)[] upgradable =
        [
            ("os.name", "Tessaly 5"),
            ("os.edition", "Home"),
            ("os.language", "en"),
            ("os.freeBytes", 90_000_000_000L),
            ("os.works", "yes"),
        ];
        Order same = new("o", "Brackwater Library", "", 1, null, false, false, false, LooksAfter.Owner, []);
        Keys(Question("tessaly-6-r2", null, same, upgradable)).ShouldContain("plan.install");
        Keys(Question("tessaly-6-r2", null, same with { NewOwner = true }, upgradable))
            .ShouldNotContain("plan.install");
        Keys(Question("tessaly-6-r2", null, same, [.. upgradable, ("plan.install", "inPlace")])).ShouldBeEmpty();
    }

    [Fact]
    public void Where_nothing_is_installed_nothing_is_asked()
    {
        var facts = Facts.GoodBut();
        foreach (
            var route in AnySheets
                .Search.Find(facts, new RouteQuestion(AnySheets.Today))
                .Where(r => r.School is School.Stay or School.Retire)
        )
            PlanAsk.Of(AnySheets.Question(facts, route)).ShouldBeEmpty();
    }
}
