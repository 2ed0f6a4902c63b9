using CsCheck;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;

namespace FreshBoot.Core.Tests.Ladder;

/// <summary>What must hold of every machine, tried on thousands that are made up at random, with facts missing.</summary>
public class EvaluatorProperties
{
    private static readonly Evaluator Evaluator = new(Shipped.Catalogue);
    private static readonly Plan Today = new(new DateOnly(2026, 12, 3));

    private static IEnumerable<(string Where, Outcome Outcome)> Judge(int[] picks)
    {
        var dossier = AnyMachines.Machine(picks);
        foreach (var system in Shipped.Catalogue.Systems)
        foreach (var rung in Evaluator.Assess(dossier, system, Today).Rungs)
        foreach (var finding in rung.Findings)
            yield return ($"{system.Id}/{finding.Requirement}", finding.Outcome);
    }

    [Fact]
    public void Adding_a_capability_never_makes_an_outcome_worse() =>
        Gen.Select(AnyMachines.Picks, AnyMachines.Key)
            .Sample(
                (picks, key) =>
                {
                    if (
                        !AnyMachines.Space[key].Ordered
                        || picks[key] < 0
                        || picks[key] == AnyMachines.Space[key].Values.Length - 1
                    )
                        return;
                    var more = picks.ToArray();
                    more[key]++;
                    foreach (var (before, after) in Judge(picks).Zip(Judge(more)))
                        // A list of boards names processors one by one: a later one is not on it for being later; it is asked where the
                        // firmware is locked, or may be. Secure Boot that is on keeps a loader out that nobody signed.
                        (
                            after.Outcome <= before.Outcome
                            || Reopened(before, after)
                            || IsCap(before.Where)
                            || (
                                AnyMachines.Space[key].Key == "cpu.model"
                                && AnyMachines.Machine(picks).Word("firmware.kind") is (null or "locked")
                            )
                            // A header takes a module; a TPM that is off wants a switch, and not every firmware has one.
                            || (
                                AnyMachines.Space[key].Key == "tpm.version"
                                && !Shipped.Catalogue.Menus(AnyMachines.Machine(picks)).HasSettings
                            )
                            || (
                                // Switched off for a loader without a signature, where it can be.
                                AnyMachines.Space[key].Key == "firmware.secureBoot"
                                && (
                                    before.Where.Contains("signed", StringComparison.Ordinal)
                                    || !Shipped.Catalogue.Menus(AnyMachines.Machine(picks)).HasSettings
                                )
                            )
                        ).ShouldBeTrue($"{before.Where} with more of {AnyMachines.Space[key].Key}");
                },
                iter: Cases.Of(1000)
            );

    [Fact]
    public void A_missing_fact_never_gives_clear_or_wall_where_its_value_could_give_another() =>
        Gen.Select(AnyMachines.Picks, AnyMachines.Key)
            .Sample(
                (picks, key) =>
                {
                    var without = picks.ToArray();
                    without[key] = -1;
                    // What follows from other facts is not missing.
                    if (AnyMachines.Machine(without)[AnyMachines.Space[key].Key] is not null)
                        return;
                    var blind = Judge(without).ToArray();
                    for (var value = 0; value < AnyMachines.Space[key].Values.Length; value++)
                    {
                        var with = picks.ToArray();
                        with[key] = value;
                        // No system sees more memory than is fitted.
                        if (
                            AnyMachines.Machine(with) is var seeing
                            && seeing.Number("memory.visibleMiB") > seeing.Number("memory.installedMiB")
                        )
                            continue;
                        foreach (var (unseen, seen) in blind.Zip(Judge(with)))
                            // A cap is told where it was seen; nobody is asked to look for one before the work.
                            if (unseen.Outcome is Outcome.Clear or Outcome.Wall && !IsCap(unseen.Where))
                                seen.Outcome.ShouldBe(
                                    unseen.Outcome,
                                    $"{unseen.Where} with {AnyMachines.Space[key].Key} = {AnyMachines.Space[key].Values[value]}"
                                );
                    }
                },
                iter: Cases.Of(375)
            );

    [Fact]
    public void Unknown_findings_name_a_fact_and_others_name_none() =>
        AnyMachines.Picks.Sample(
            picks =>
            {
                var dossier = AnyMachines.Machine(picks);
                foreach (var system in Shipped.Catalogue.Systems)
                foreach (var finding in Evaluator.Assess(dossier, system, Today).Rungs.SelectMany(r => r.Findings))
                    (finding.UndecidedBy.Count > 0).ShouldBe(
                        finding.Outcome == Outcome.Unknown,
                        $"{system.Id}/{finding.Requirement}"
                    );
            },
            iter: Cases.Of(500)
        );

    [Fact]
    public void Every_finding_can_be_put_into_words() =>
        AnyMachines.Picks.Sample(
            picks =>
            {
                foreach (var system in Shipped.Catalogue.Systems)
                foreach (
                    var finding in Evaluator
                        .Assess(AnyMachines.Machine(picks), system, Today)
                        .Rungs.SelectMany(r => r.Findings)
                )
                {
                    finding.Text.ShouldEndWith(".");
                    finding.Text.ShouldNotContain("  ");
                }
            },
            iter: Cases.Of(250)
        );

    /// <summary>
    /// Programs ask for several things at once. One that surely fell short for one of them is a caveat; with more of that, what
    /// nobody measured of the others opens it again.
    /// </summary>
    private static bool Reopened((string Where, Outcome Outcome) before, (string Where, Outcome Outcome) after) =>
        before is { Outcome: Outcome.Caveat }
        && after is { Outcome: Outcome.Unknown }
        && before.Where.Contains("/program-", StringComparison.Ordinal);

    [Fact]
    public void The_grade_of_a_fleet_is_the_outcome_of_the_assessment() =>
        AnyMachines.Picks.Sample(
            picks =>
            {
                var dossier = AnyMachines.Machine(picks);
                foreach (var system in Shipped.Catalogue.Systems)
                    Evaluator.Grade(dossier, system, Today).ShouldBe(Evaluator.Assess(dossier, system, Today).Outcome);
            },
            iter: Cases.Of(125)
        );

    /// <summary>What compares memory that is seen with memory that is fitted: more of the one alone is no capability.</summary>
    private static bool IsCap(string where) => where.EndsWith("/memory-seen", StringComparison.Ordinal);
}
