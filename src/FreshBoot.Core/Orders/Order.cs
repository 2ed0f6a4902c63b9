using System.Text.Json.Serialization;
using FreshBoot.Core.Catalogue;

namespace FreshBoot.Core.Orders;

/// <summary>What an order asks for.</summary>
[JsonConverter(typeof(CamelCaseNames<NeedKind>))]
public enum NeedKind
{
    /// <summary>A program of a <see cref="Purpose"/>.</summary>
    Program,

    /// <summary>No maker's account.</summary>
    NoAccount,

    /// <summary>Works without a network, set-up included.</summary>
    Offline,

    /// <summary>Starts by itself into one program and stays up.</summary>
    Unattended,

    /// <summary>Updates until a day.</summary>
    SupportUntil,

    /// <summary>At most so much money a machine.</summary>
    Budget,
}

/// <summary>A need of an order: a limit that no route may break, or a wish that counts in the fit.</summary>
/// <param name="Kind">What is asked for.</param>
/// <param name="Hard">Whether it is a limit.</param>
/// <param name="Purpose">For <see cref="NeedKind.Program"/>.</param>
/// <param name="Until">For <see cref="NeedKind.SupportUntil"/>.</param>
/// <param name="Money">For <see cref="NeedKind.Budget"/>, in hundredth parts of a mark.</param>
public sealed record OrderNeed(
    NeedKind Kind,
    bool Hard,
    Purpose? Purpose = null,
    DateOnly? Until = null,
    int? Money = null
);

/// <summary>Who looks after the machines later.</summary>
[JsonConverter(typeof(CamelCaseNames<LooksAfter>))]
public enum LooksAfter
{
    /// <summary>The shop, or somebody who knows.</summary>
    Shop,

    /// <summary>The person who uses it.</summary>
    Owner,

    /// <summary>Nobody.</summary>
    Nobody,
}

/// <summary>An order: for whom machines are made ready, and what they have to be good for.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">Who ordered; machines name it in <c>order.name</c>.</param>
/// <param name="About">What it is for, in a sentence.</param>
/// <param name="Machines">How many machines.</param>
/// <param name="Due">The day they are due; null for none.</param>
/// <param name="NewOwner">Whether somebody else gets the machines: then nothing of the previous user may stay.</param>
/// <param name="Shared">Whether strangers share one.</param>
/// <param name="Everyday">Whether somebody relies on it every day: risk weighs double.</param>
/// <param name="LookedAfterBy">Who looks after it later.</param>
/// <param name="Needs">Limits and wishes.</param>
public sealed record Order(
    string Id,
    string Name,
    string About,
    int Machines,
    DateOnly? Due,
    bool NewOwner,
    bool Shared,
    bool Everyday,
    LooksAfter LookedAfterBy,
    IReadOnlyList<OrderNeed> Needs
)
{
    /// <summary>The word in <c>order.name</c> of a machine that was taken out of an order: it is for nobody in particular.</summary>
    public const string Nobody = "nobody";

    private const int Most = 20;

    /// <summary>The most money that a machine of it may cost, or null.</summary>
    [JsonIgnore]
    public int? HardBudget => Needs.Where(n => n is { Kind: NeedKind.Budget, Hard: true }).Min(n => n.Money);

    /// <summary>Refuses an order that cannot be meant so.</summary>
    /// <exception cref="RefusedException">What is wrong, where, and what would be right.</exception>
    public Order Checked()
    {
        Words(Name, "name", 60);
        Words(About, "about", 300);
        if (Machines is < 1 or > 10_000)
            throw Refuse($"{Machines} machines.", "machines", "1 to 10000.");
        if (Needs.Count > Most)
            throw Refuse($"{Needs.Count} needs.", "needs", $"At most {Most}.");
        for (var i = 0; i < Needs.Count; i++)
        {
            var (need, at) = (Needs[i], $"needs/{i}");
            if (need.Kind == NeedKind.Program != need.Purpose is not null)
                throw Refuse(
                    "A program is asked for by its purpose, and only a program.",
                    at,
                    "“purpose”: web, office, calls or drawing."
                );
            if (need.Kind == NeedKind.SupportUntil != need.Until is not null)
                throw Refuse(
                    "Support is asked for until a day, and only support.",
                    at,
                    "“until”: a day such as 2029-12-31."
                );
            if (need.Kind == NeedKind.Budget != need.Money is not null || need.Money is < 0 or > 100_000_000)
                throw Refuse(
                    "A budget is an amount, and only a budget.",
                    at,
                    "“money”: hundredth parts of a mark, 0 or more."
                );
            if (Needs.Take(i).Any(n => n.Kind == need.Kind && n.Purpose == need.Purpose))
                throw Refuse("The same need stands twice.", at, "Each need once.");
        }
        return this;

        static void Words(string text, string where, int most)
        {
            if (text.Trim().Length is 0 || text.Length > most || text.Any(char.IsControl))
                throw Refuse($"“{where}” is empty or too long.", where, $"1 to {most} characters on one line.");
        }

        static RefusedException Refuse(string what, string where, string wanted) =>
            new(RefusalKind.Invalid, what, where, wanted);
    }
}
