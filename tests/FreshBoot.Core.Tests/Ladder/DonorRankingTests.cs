using CsCheck;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Formats.Tests;

namespace FreshBoot.Core.Tests.Ladder;

public class DonorRankingTests
{
    private static IReadOnlyList<ScoredDonor> Rank(IFacts facts, string system) =>
        DonorRanking.Rank(
            facts,
            system,
            Shipped.Catalogue.Donors,
            model => Shipped.Catalogue.Device("graphics", model)
        );

    [Theory]
    [InlineData("Ottavine", "Plinth PL-06B", "mini", "C6", "canzona-6", "PL-08A")]
    [InlineData("Ottavine", "Plinth PL-05A", "mini", "C5", "canzona-6", "PL-08A")]
    [InlineData("Ottavine", "Plinth PL-07A", "mini", "C7", "canzona-6", "PL-08A")]
    [InlineData("Ottavine", "Plinth PL-09A", "mini", "C9", "canzona-6", "PL-09C")]
    [InlineData("Ottavine", "Plinth PL-10A", "mini", "C10", "canzona-6", "PL-09C")]
    [InlineData("Ottavine", "Plinth PL-04A", "mini", "C4", "canzona-5", "PL-06B")]
    [InlineData("Ottavine", "Plinth PL-07A", "mini", "C7", "canzona-5", "PL-08A")]
    [InlineData("Ottavine", "Sonata SO-05C", "laptop", "C5", "canzona-6", "SO-07A")]
    [InlineData("Ottavine", "Sonata SO-06A", "laptop", "C6", "canzona-6", "SO-07A")]
    [InlineData("Ottavine", "Sonata SO-08A", "laptop", "C8", "canzona-6", "SO-08D")]
    [InlineData("Ottavine", "Sonata SO-09A", "laptop", "C9", "canzona-6", "SO-08D")]
    [InlineData("Ottavine", "Sonata SO-04A", "laptop", "C4", "canzona-4", "SO-04B")]
    [InlineData("Ottavine", "Sonata SO-04A", "laptop", "C4", "canzona-5", "SO-06D")]
    [InlineData("Ottavine", "Casement CA-06B", "all-in-one", "C6", "canzona-6", "CA-08B")]
    [InlineData("Ottavine", "Casement CA-05A", "all-in-one", "C5", "canzona-5", "CA-06A")]
    [InlineData("Ottavine", "Casement CA-09A", "all-in-one", "C9", "canzona-6", "CA-08B")]
    [InlineData("Brackwater", "Stile 15", "laptop", "C7", "canzona-6", "SO-07A")]
    [InlineData("Brackwater", "Stile 14", "laptop", "C8", "canzona-6", "SO-08D")]
    [InlineData("Larkfield", "Cube 2", "mini", "C7", "canzona-6", "PL-08A")]
    [InlineData("Ottavine", "Plinth PL-06B", "mini", "C6", "wickerwork-26", null)]
    public void The_first_choice_is_the_nearest(
        string maker,
        string model,
        string form,
        string generation,
        string system,
        string? first
    )
    {
        var facts = Facts.Of(
            ("identity.maker", maker),
            ("identity.model", model),
            ("identity.line", model.Split(' ')[0]),
            ("identity.chassis", form),
            ("cpu.generation", generation),
            ("graphics.0.model", $"Corvane {generation} graphics")
        );
        var ranked = Rank(facts, system);

        ranked.Select(r => r.Donor.Id).FirstOrDefault().ShouldBe(first);
        ranked.ShouldAllBe(r => r.Score == r.Parts.Sum(p => p.Points) && r.Parts.All(p => p.Points <= p.Most));
        ranked.ShouldAllBe(r => r.Donor.Systems.Contains(system));
    }

    private static readonly Gen<DonorModel> Any = Gen.Select(
        Pick.From(["Plinth", "Sonata", "Casement"]),
        Gen.Int[3, 10],
        Pick.From(["laptop", "small desktop", "all-in-one"]),
        Pick.From(["Corvane class 1", "Corvane class 2"]),
        Gen.Int[2012, 2022],
        (line, generation, form, graphics, year) =>
            new DonorModel("A", "Ottavine", line, generation, "b", "A", ["s"])
            {
                Form = form,
                Graphics = graphics,
                Year = year,
            }
    );

    [Fact]
    public void A_donor_that_is_better_in_one_point_and_equal_in_the_rest_is_never_ranked_lower() =>
        Gen.Select(Any, Any, Gen.Int[0, 4], Gen.Int[4, 9])
            .Sample(
                (one, other, part, generation) =>
                {
                    // The second takes one point of the other donor, and keeps the rest.
                    var changed = (
                        part switch
                        {
                            0 => one with { Line = other.Line },
                            1 => one with { Form = other.Form },
                            2 => one with { Generation = other.Generation },
                            3 => one with { Graphics = other.Graphics },
                            _ => one with { Year = other.Year },
                        }
                    ) with
                    {
                        Id = "B",
                    };
                    var facts = Facts.Of(
                        ("identity.maker", "Ottavine"),
                        ("identity.line", "Sonata"),
                        ("identity.chassis", "laptop"),
                        ("cpu.generation", $"C{generation}"),
                        ("graphics.0.model", "Corvane C6 graphics"),
                        ("identity.year", 2016)
                    );
                    var ranked = DonorRanking.Rank(
                        facts,
                        "s",
                        [one, changed],
                        model => Shipped.Catalogue.Device("graphics", model)
                    );
                    var (a, b) = (ranked.Single(r => r.Donor.Id == "A"), ranked.Single(r => r.Donor.Id == "B"));
                    for (var i = 0; i < a.Parts.Count; i++)
                        if (i != part)
                            a.Parts[i].Points.ShouldBe(b.Parts[i].Points);
                    if (b.Parts[part].Points > a.Parts[part].Points)
                        ranked[0].ShouldBe(b);
                    if (b.Parts[part].Points < a.Parts[part].Points)
                        ranked[0].ShouldBe(a);
                }
            );

    [Fact]
    public void A_far_donor_says_what_it_breaks()
    {
        var stile = Facts.Of(
            ("identity.maker", "Brackwater"),
            ("identity.line", "Stile"),
            ("identity.chassis", "laptop"),
            ("cpu.generation", "C10"),
            ("graphics.0.model", "Lumenar L2")
        );
        var plinth = Rank(stile, "canzona-6").Single(r => r.Donor.Id == "PL-08A");

        plinth.Breaks.ShouldContain(b => b.Contains("fans run at full speed"));
        plinth.Breaks.ShouldContain(b => b.Contains("battery, lid and sleep"));
        plinth.Breaks.ShouldContain(b => b.Contains("2 generations newer"));
        plinth.Breaks.ShouldContain(b => b.Contains("no acceleration"));
    }
}
