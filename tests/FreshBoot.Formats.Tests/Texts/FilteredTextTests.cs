using CsCheck;
using FreshBoot.Formats.Texts;

namespace FreshBoot.Formats.Tests.Texts;

public class FilteredTextTests
{
    private static readonly Gen<string> Line = Pick.From([
        "# a remark",
        "",
        "[all]",
        "[board-q]",
        "[other]",
        "a=1",
        "a = 2",
        "b=x y",
        "  c=3  ",
        "nonsense",
        "=4",
    ]);

    private static bool Applies(string filter) => filter is "" or "all" or "board-q";

    [Fact]
    public void Of_a_key_that_stands_several_times_the_last_that_applies_counts()
    {
        var lines = FilteredText.Read("a=1\n# no\n[other]\na=2\n[board-q]\na=3\n[all]\nb=4\nwhat\n");
        var effective = FilteredText.Effective(lines, Applies);

        effective.Select(e => (e.Key, e.Value, e.Line)).ShouldBe([("a", "3", 6), ("b", "4", 8)]);
        effective[0].Over.ShouldBe([1]);
        lines.Single(l => l.Kind == FilteredKind.Odd).Number.ShouldBe(9);
    }

    [Fact]
    public void A_key_that_is_set_counts_with_its_value_and_every_other_line_stays() =>
        Gen.Select(Line.Array[1, 12], Pick.From(["a", "b", "z"]), Pick.From(["\n", "\r\n"]))
            .Sample(
                (all, key, feed) =>
                {
                    // A text of one line says nothing of how its lines end.
                    feed = all.Length == 1 ? "\n" : feed;
                    var text = string.Join(feed, all);
                    var after = FilteredText.With(text, key, "new", Applies);
                    var before = FilteredText.Effective(FilteredText.Read(text), Applies);
                    var now = FilteredText.Effective(FilteredText.Read(after), Applies);

                    now.Single(e => e.Key == key).Value.ShouldBe("new");
                    now.Where(e => e.Key != key)
                        .Select(e => (e.Key, e.Value))
                        .ShouldBe(before.Where(e => e.Key != key).Select(e => (e.Key, e.Value)), ignoreOrder: true);
                    // One line is another, or one more; the rest is as it was.
                    var lines = after.Split(feed).ToList();
                    lines.RemoveAll(l =>
                        l.EndsWith("=new", StringComparison.Ordinal) || l.EndsWith("= new", StringComparison.Ordinal)
                    );
                    lines.Except(all).ShouldBeEmpty();
                    lines.Count.ShouldBeInRange(all.Length - 1, Math.Max(1, all.Length));
                    FilteredText.With(after, key, "new", Applies).ShouldBe(after);
                },
                iter: 2000
            );

    [Fact]
    public void Whatever_the_text_is_it_is_read() => Gen.String.Sample(text => FilteredText.Read(text).Count > 0);
}
