using FreshBoot.Core.Sheets;

namespace FreshBoot.Core.Tests.Jobs;

/// <summary>
/// A machine that is installed clean and keeps its owner ends with the files that were saved before: copied back, counted, and opened.
/// </summary>
public class FilesBackTests
{
    private static Job Clean(bool newOwner, string data, params (string, object?)[] more) =>
        new("wickerwork-26", School.Comply, newOwner, [("release.data", data), ("plan.install", "clean"), .. more]);

    [Theory]
    [InlineData("saved", "files-back.copy-in")]
    [InlineData("drive-kept", "files-back.drive-in")]
    public void Saved_files_come_back_after_the_account_and_before_the_shop_leaves(string data, string begins)
    {
        (string, object?)[] swapped =
            data == "drive-kept" ? [("storage.0.sizeBytes", 8_000_000_000L), ("storage.0.bus", "sata")] : [];
        var sheet = Clean(false, data, swapped).Sheet();
        Job.InOrder(sheet, "first-start.local", begins, "files-back.count", "files-back.opened", "clean-same.shop");
        var first = Job.Step(sheet, begins);
        first.Caution.ShouldNotBeNull().ShouldContain("the only");
        var opened = Job.Step(sheet, "files-back.opened");
        opened.Proves.ShouldBe("The owner's files are back and open");
        opened.Branches.ShouldAllBe(b => b.Stop != null && b.Stop.Contains("is kept", StringComparison.Ordinal));
        // What is erased is erased after the copy was opened.
        Job.InOrder(sheet, data == "saved" ? "data-saved.open" : "data-drive-kept.label", begins);
    }

    [Fact]
    public void Nobody_who_is_new_gets_the_files_of_the_one_before() =>
        Job.Way(Clean(true, "saved").Sheet())
            .ShouldNotContain(id => id.StartsWith("files-back", StringComparison.Ordinal));

    [Fact]
    public void Nothing_comes_back_where_nothing_was_wanted() =>
        Job.Way(Clean(false, "not-wanted").Sheet())
            .ShouldNotContain(id => id.StartsWith("files-back", StringComparison.Ordinal));

    [Fact]
    public void A_sheet_that_forgets_the_saved_files_is_refused()
    {
        var job = Clean(false, "saved");
        var sheet = job.Sheet();
        var cut = sheet.Steps.Where(s => s.Fragment != "files-back").ToArray();
        var (faults, _) = Checker.Check(cut, sheet.Start, RunSheet.Goal(job.Question()));
        faults.ShouldContain(f => f.Says.Contains("saved for its owner", StringComparison.Ordinal));
    }
}
