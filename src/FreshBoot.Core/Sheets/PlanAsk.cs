using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Sheets;

/// <summary>
/// A question on whose answer the steps of a sheet depend, and that nobody has answered: it is asked before the sheet is used. Until then
/// the sheet has a step that asks or measures; it never takes one of the answers for granted.
/// </summary>
/// <param name="Fact">The key of the dossier under which the answer is noted.</param>
/// <param name="Asks">The question.</param>
/// <param name="Answers">What can be answered, the value as it is noted first.</param>
/// <param name="Until">What the sheet does while nobody answers.</param>
public sealed record PlanAsk(string Fact, string Asks, IReadOnlyList<ChoiceAnswer> Answers, string Until)
{
    /// <summary>The open questions of a route, in the order in which the work comes to them; none where nothing is installed.</summary>
    public static IReadOnlyList<PlanAsk> Of(SheetQuestion question)
    {
        if (question.System is not { } system || question.Route.School is School.Stay or School.Retire)
            return [];
        var asks = new List<PlanAsk>();
        if (
            question.Facts.Word("plan.install") is null
            && question.Order?.NewOwner == false
            && question.Route.InPlace is { Possible: not false, Keeps: { Count: > 0 } keeps }
        )
            asks.Add(
                Chosen(
                    "plan.install",
                    $"Does the owner keep what is on it? {system.FullName} can go over it; {Numbers.Join(keeps, "and")} stay.",
                    "It is installed clean: everything on the drive is lost."
                )
            );
        if (question is { Over: false, HasEditions: true, Edition: null })
            asks.Add(
                new PlanAsk(
                    "plan.edition",
                    $"For which edition of {system.FullName} has this machine a licence?",
                    [
                        .. system.Editions.Select(e => new ChoiceAnswer(
                            e,
                            e,
                            "As its licence label, its firmware or the page about its old system says."
                        )),
                    ],
                    "A step has the edition looked up and noted before it is chosen."
                )
            );
        if (question is { Over: false, Account: AccountBy.Open })
            asks.Add(
                Chosen(
                    "plan.account",
                    system.Account == Asked.Required
                        ? $"Which account? {system.FullName} goes on only with one of its maker, unless an answer file passes over that page."
                        : "Which account is made at the first start?",
                    "The step at which it is asked has the owner asked first."
                )
            );
        if (question is { Over: false, System.Encryption: not null } && question.Facts.Word("plan.encryption") is null)
            asks.Add(
                Chosen(
                    "plan.encryption",
                    "Is the drive encrypted?",
                    "It is left as it is: whoever finds the machine can read the drive."
                )
            );
        return asks;
    }

    private static PlanAsk Chosen(string fact, string asks, string until) =>
        new(fact, asks, Choices.All.First(c => c.Key == fact).Answers, until);
}

/// <summary>Who or what answers the page of the first start that asks for an account.</summary>
public enum AccountBy
{
    /// <summary>The system asks for none.</summary>
    NotAsked,

    /// <summary>Nobody has said which account is wanted.</summary>
    Open,

    /// <summary>A person makes a local one.</summary>
    Person,

    /// <summary>The answer file on the medium.</summary>
    AnswerFile,

    /// <summary>The owner signs in with their own account.</summary>
    Owner,

    /// <summary>A local one is wanted, the system insists on one of its maker, and nothing passes over that page.</summary>
    Nobody,
}
