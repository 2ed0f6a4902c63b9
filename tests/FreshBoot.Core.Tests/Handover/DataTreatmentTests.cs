using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Handover;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Runs;

namespace FreshBoot.Core.Tests.Handover;

/// <summary>The certificate of data treatment: what facts and run say, and never more.</summary>
public class DataTreatmentTests
{
    private static readonly OwnerWords English = Shipped.Words("en");
    private static readonly DateOnly Today = new(2026, 12, 4);

    private static Step Step(string id, StepKind kind, string? proves = null, params (string, string)[] does) =>
        new(id, Rung.Release, kind, "Do it", null, 1)
        {
            Proves = proves,
            Does = does.ToDictionary(d => d.Item1, d => d.Item2, StringComparer.Ordinal),
        };

    private static readonly Step[] Sheet =
    [
        Step("out", StepKind.Do, null, ("oldDrive", "kept"), ("drive", "blank")),
        Step("method", StepKind.Choose),
        Step("erase", StepKind.Confirm, null, ("drive", "blank")),
        Step("verify", StepKind.Check, "Nothing can be read from its drives"),
        Step("divide", StepKind.Confirm, null, ("drive", "divided")),
        Step("card", StepKind.Confirm, null, ("drive", "system")),
    ];

    private static DataTreatment Treated(
        (string, object?)[] facts,
        (string Step, string Kind, string? Chosen)[] said,
        string? rule = null
    )
    {
        var dossier = Facts.GoodBut(facts);
        RunEvent[] events =
        [
            .. said.Select(
                (s, i) =>
                    new RunEvent(
                        i,
                        $"{i}",
                        s.Kind,
                        s.Step,
                        "Wen",
                        s.Chosen is { } chosen
                            ? new Dictionary<string, string> { ["chosen"] = chosen }
                            : new Dictionary<string, string>(),
                        Facts.Noon,
                        ""
                    )
            ),
        ];
        return DataTreatment.Of(
            "MR-0404",
            dossier,
            dossier,
            Sheet,
            events,
            events.ToDictionary(
                e => e.StepId,
                e => new Said(e.Kind, null, null, null, e.By, e.At, e.Seq),
                StringComparer.Ordinal
            ),
            rule
        );
    }

    private static string[] Part(OwnerSheet sheet, string id) => [.. sheet.Parts.Single(p => p.Id == id).Items];

    private static OwnerSheet Paper(DataTreatment treated, string code = "en") =>
        treated.Certificate(Shipped.Words(code), "Harbour Workshop", Today, new WorkshopCalendar(TimeZoneInfo.Utc));

    [Fact]
    public void A_method_that_was_chosen_and_read_again_is_named_with_who_and_when()
    {
        var paper = Paper(
            Treated(
                [("release.data", "saved"), ("release.encryption", "none")],
                [
                    ("method", "done", "purge: the drive’s own command to erase itself"),
                    ("erase", "done", null),
                    ("verify", "done", null),
                ],
                "Rule 7 of the house"
            )
        );
        Part(paper, "dataDone").ShouldHaveSingleItem().ShouldContain("“purge” of NIST SP 800-88): Wen,");
        Part(paper, "dataProof").ShouldHaveSingleItem().ShouldContain("read again");
        Part(paper, "dataWas")[0].ShouldStartWith("What its owner wanted was saved elsewhere");
        Part(paper, "dataRule").ShouldBe(["Rule 7 of the house"]);
        paper.Foot.ShouldContain("4 December 2026");
    }

    [Fact]
    public void Partitions_that_were_deleted_are_no_erasure_and_the_paper_says_so()
    {
        var paper = Paper(
            Treated([("release.data", "not-wanted")], [("divide", "done", null), ("card", "done", null)])
        );
        Part(paper, "dataDone").ShouldHaveSingleItem().ShouldStartWith("Its partitions were deleted");
        Part(paper, "dataProof").ShouldHaveSingleItem().ShouldContain("laboratory");
        Part(paper, "dataRule").ShouldHaveSingleItem().ShouldStartWith("None is named");
    }

    [Fact]
    public void What_was_skipped_or_only_planned_is_not_certified()
    {
        var paper = Paper(
            Treated([("release.data", "drive-kept")], [("erase", "skipped", null), ("out", "done", null)])
        );
        Part(paper, "dataDone").ShouldHaveSingleItem().ShouldStartWith("The old drive was taken out");
        Part(paper, "dataProof").ShouldBe(["Nothing was erased that wants proof."]);
        Part(Paper(Treated([("release.data", "saved")], [("erase", "done", null)])), "dataProof")
            .ShouldBe(["Nobody has noted that it was read again."]);
        // A method that was chosen and never carried out has erased nothing.
        Part(
                Paper(
                    Treated(
                        [("release.data", "saved")],
                        [("method", "done", "purge: the drive’s own command"), ("erase", "skipped", null)]
                    )
                ),
                "dataDone"
            )
            .ShouldBe(["No drive was erased."]);
        Treated([("release.data", null)], []).IsEmpty.ShouldBeTrue();
    }

    [Theory]
    [InlineData("release.data", "dataWanted")]
    [InlineData("release.encryption", "dataEncryption")]
    [InlineData("release.erased", "dataMethod")]
    public void Whatever_can_be_answered_has_its_sentence_in_every_language(string key, string group)
    {
        foreach (var (value, _) in FactRegistry.Find(key)!.Choices)
        foreach (var words in Shipped.Languages)
        {
            words.Has($"{group}.{value}").ShouldBeTrue($"{words.Code} {value}");
            Paper(Treated([(key, value)], []), words.Code)
                .Parts.SelectMany(p => p.Items)
                .ShouldAllBe(i => i.Length > 0 && !i.Contains('{'));
        }
        English.Has("dataDone.out").ShouldBeTrue();
    }
}
