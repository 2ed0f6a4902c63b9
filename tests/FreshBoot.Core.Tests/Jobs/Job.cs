using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Orders;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Routes;
using FreshBoot.Core.Sheets;
using FreshBoot.Core.Tests.Sheets;

namespace FreshBoot.Core.Tests.Jobs;

/// <summary>A job as it comes to the bench: machine and plan, the order, and the way that was chosen.</summary>
/// <param name="System">Id of the system.</param>
/// <param name="School">The school of the route.</param>
/// <param name="NewOwner">Whether the machine changes its owner.</param>
/// <param name="Facts">What is other than at a sound machine.</param>
internal sealed record Job(string System, School School, bool NewOwner, params (string, object?)[] Facts)
{
    private Order Order => new("o", "Brackwater Library", "", 1, null, NewOwner, false, false, LooksAfter.Owner, []);

    /// <summary>The dossier.</summary>
    public Dossier Dossier => Tests.Facts.GoodBut(Facts);

    /// <summary>What the sheet is asked for; fails where there is no such way.</summary>
    public SheetQuestion Question()
    {
        var facts = Dossier;
        var route = AnySheets
            .Search.Find(facts, new RouteQuestion(AnySheets.Today) { Order = Order })
            .FirstOrDefault(r => r.System == System && r.School == School)
            .ShouldNotBeNull($"a way to {System} by {School}");
        return AnySheets.Question(facts, route, order: Order);
    }

    /// <summary>The sheet; fails where there is none.</summary>
    public RunSheet Sheet()
    {
        var question = Question();
        var sheet = RunSheet.Of(question);
        sheet.Missing.ShouldBeEmpty(AnySheets.Told(Dossier, question.Route, sheet));
        return sheet;
    }

    /// <summary>The steps of the main way, by id, in their order.</summary>
    public static IReadOnlyList<string> Way(RunSheet sheet) =>
        [.. sheet.Steps.Where(s => s.On is null).Select(s => s.Id)];

    /// <summary>One step of a sheet.</summary>
    public static Step Step(RunSheet sheet, string id) =>
        sheet.Steps.FirstOrDefault(s => s.Id == id).ShouldNotBeNull($"{id} in {string.Join(' ', Way(sheet))}");

    /// <summary>That steps come one after the other.</summary>
    public static void InOrder(RunSheet sheet, params string[] ids) =>
        ids.Select(id => Way(sheet).ToList().IndexOf(Step(sheet, id).Id)).ShouldBeInOrder();
}
