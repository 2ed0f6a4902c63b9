using CsCheck;
using FreshBoot.Core.Routes;

namespace FreshBoot.Core.Tests.Routes;

public class FlipsTests
{
    private const double Beside = 1e-6;
    private static readonly DateOnly Today = new(2026, 12, 3);
    private static readonly RouteSearch Search = new(Shipped.Catalogue);

    private static readonly Gen<Weights> AnyWeights = Gen.Int[0, 100]
        .Array[5]
        .Where(w => w.Sum() > 0)
        .Select(w => new Weights(w[0], w[1], w[2], w[3], w[4]));

    [Fact]
    public void Just_below_and_just_above_a_flip_another_route_is_the_best()
    {
        var seen = 0;
        Gen.Select(Gen.Int[0, Fleet.Dossiers.Count - 1], AnyWeights)
            .Sample(
                (machine, weights) =>
                {
                    var routes = Search.Find(Fleet.Dossiers[machine].Dossier, new RouteQuestion(Today));
                    foreach (var flip in Flips.Of(routes, weights))
                    {
                        Interlocked.Increment(ref seen);
                        flip.At.ShouldBeInRange(0, 100);
                        flip.Below.ShouldNotBe(flip.Above);
                        IsBest(routes, flip.Below, weights.With(flip.Criterion, flip.At - Beside), $"{flip} below");
                        IsBest(routes, flip.Above, weights.With(flip.Criterion, flip.At + Beside), $"{flip} above");
                    }
                },
                iter: Cases.Of(100)
            );
        seen.ShouldBeGreaterThan(Cases.Of(25));
    }

    /// <summary>No route scores more than the named one. Two may tie, and then only rounding tells them apart.</summary>
    private static void IsBest(IReadOnlyList<Route> routes, string named, Weights weights, string about)
    {
        if (weights.Sum <= 0)
            weights = weights with { Fit = Beside };
        double Score(Route r) => weights.Score(r.Vector, r.School);
        Score(routes.Single(r => r.Id == named)).ShouldBe(routes.Max(Score), 1e-9, about);
    }

    [Fact]
    public void Between_two_flips_the_best_route_stays_the_same() =>
        Gen.Select(Gen.Int[0, Fleet.Dossiers.Count - 1], AnyWeights, Gen.Double[0.001, 99.999])
            .Sample(
                (machine, weights, at) =>
                {
                    var routes = Search.Find(Fleet.Dossiers[machine].Dossier, new RouteQuestion(Today));
                    foreach (var criterion in Weights.Criteria)
                    {
                        var flips = Flips.Of(routes, weights).Where(f => f.Criterion == criterion).ToArray();
                        if (flips.Any(f => Math.Abs(f.At - at) < Beside))
                            continue;
                        var moved = weights.With(criterion, at);
                        var said = flips.LastOrDefault(f => f.At < at)?.Above ?? flips.FirstOrDefault()?.Below;
                        if (said is not null)
                            IsBest(routes, said, moved, $"{criterion} at {at}");
                    }
                },
                iter: Cases.Of(50)
            );

    [Theory]
    [InlineData("20,15,15,30,20", true)]
    [InlineData("0,0,0,0,1", true)]
    [InlineData("12.5,0,0,0,0", true)]
    [InlineData("0,0,0,0,0", false)]
    [InlineData("1,2,3,4", false)]
    [InlineData("1,2,3,4,101", false)]
    [InlineData("1,2,3,4,-1", false)]
    [InlineData("a,b,c,d,e", false)]
    public void Weights_are_five_numbers_from_nought_to_a_hundred(string text, bool good)
    {
        if (good)
            Weights.Parse(text).Sum.ShouldBeGreaterThan(0);
        else
            Should.Throw<RefusedException>(() => Weights.Parse(text)).Refusal.Where.ShouldBe("weights");
    }

    [Fact]
    public void A_score_is_the_sum_of_its_parts_and_the_list_is_ranked_by_it() =>
        Gen.Select(Gen.Int[0, Fleet.Dossiers.Count - 1], AnyWeights)
            .Sample(
                (machine, weights) =>
                {
                    var routes = Search.Find(
                        Fleet.Dossiers[machine].Dossier,
                        new RouteQuestion(Today, Weights: weights)
                    );
                    routes.Select(r => r.Score).ShouldBeInOrder(SortDirection.Descending);
                    foreach (var route in routes)
                        route.ScoreParts.Sum(p => p.Points).ShouldBe(route.Score, 0.3);
                    // Nothing that is beaten in everything stands before what beats it.
                    for (var i = 0; i < routes.Count; i++)
                        routes
                            .Skip(i + 1)
                            .ShouldNotContain(r => r.Vector.Beats(routes[i].Vector) && r.Score > routes[i].Score);
                },
                iter: Cases.Of(25)
            );
}
