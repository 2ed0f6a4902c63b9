using FreshBoot.Core.Ladder;
using FreshBoot.Core.Orders;

namespace FreshBoot.Core.Routes;

/// <summary>
/// How well a route suits the person, 0 to 100: programs 40, comfort 25, wishes of the order 15, and 20 for no strings attached.
/// It hangs on findings alone, and a finding that becomes clear never lowers it: the search of routes relies on that.
/// </summary>
internal static class Fit
{
    private const int Programs = 40;
    private const int Comfort = 25;
    private const int Wishes = 15;
    private const int Strings = 20;
    private const int PerDiscomfort = 8;
    private const int PerString = 4;

    /// <summary>The fit of a system under the plan that <paramref name="assessment"/> was made with.</summary>
    public static int Of(Assessment assessment)
    {
        var tally = new Tally(assessment);
        return tally.Programs + tally.Comfort + tally.Wishes + tally.Strings;
    }

    /// <summary>The same with its parts.</summary>
    public static IReadOnlyList<ScorePart> Parts(Assessment assessment, Order? order)
    {
        var tally = new Tally(assessment);
        return
        [
            new(
                "programs",
                tally.ProgramsAsked == 0 ? "none asked for" : $"{tally.ProgramsHeld} of {tally.ProgramsAsked} run well",
                tally.Programs,
                Programs
            ),
            new(
                "comfort",
                tally.Idle ? "it starts, and little runs on it"
                    : tally.Discomforts == 0 ? "nothing short"
                    : $"{tally.Discomforts} short of comfortable",
                tally.Comfort,
                Comfort
            ),
            new(
                "wishes",
                order is null ? "no order"
                    : tally.WishesAsked == 0 ? "none beside programs"
                    : $"{tally.WishesHeld} of {tally.WishesAsked} met",
                tally.Wishes,
                Wishes
            ),
            new(
                "strings",
                tally.Attached == 0 ? "none attached" : $"{tally.Attached} attached",
                tally.Strings,
                Strings
            ),
        ];
    }

    private sealed class Tally
    {
        public int ProgramsAsked { get; }
        public int ProgramsHeld { get; }
        public int Discomforts { get; }
        public int WishesAsked { get; }
        public int WishesHeld { get; }
        public int Attached { get; }

        public Tally(Assessment assessment)
        {
            foreach (var rung in assessment.Rungs)
            foreach (var finding in rung.Findings)
            {
                // What nobody measured is taken to be well, and the route says what it assumes.
                var clear = finding.Outcome is Outcome.Clear or Outcome.Unknown;
                if (finding.Requirement.StartsWith("program-", StringComparison.Ordinal))
                {
                    ProgramsAsked++;
                    if (clear)
                        ProgramsHeld++;
                }
                else if (finding.Requirement.StartsWith("order-", StringComparison.Ordinal))
                {
                    WishesAsked++;
                    if (clear)
                        WishesHeld++;
                }
                else if (finding.Requirement.EndsWith("-brings", StringComparison.Ordinal))
                {
                    if (!clear)
                        Attached++;
                }
                else if (
                    finding.Outcome == Outcome.Caveat
                    && (finding.Kind.OnlyAnnoys() || finding.Rung == Rung.Devices)
                )
                {
                    Discomforts++;
                }
            }
        }

        public int Programs => ProgramsAsked == 0 ? Fit.Programs : Fit.Programs * ProgramsHeld / ProgramsAsked;

        /// <summary>What starts and runs nothing that anybody asks for is of no comfort, however well it starts.</summary>
        public bool Idle => ProgramsAsked > 0 && ProgramsHeld == 0;
        public int Comfort => Idle ? 0 : Math.Max(0, Fit.Comfort - PerDiscomfort * Discomforts);
        public int Wishes => WishesAsked == 0 ? Fit.Wishes : Fit.Wishes * WishesHeld / WishesAsked;
        public int Strings => Math.Max(0, Fit.Strings - PerString * Attached);
    }
}
