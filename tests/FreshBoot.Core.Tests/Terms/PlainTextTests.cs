namespace FreshBoot.Core.Tests.Terms;

public class PlainTextTests
{
    [Theory]
    [InlineData("Škoda’s 2nd PC – ☕ 👩‍🔧", true)]
    [InlineData("مدرسة", true)]
    [InlineData("a\0b", false)]
    [InlineData("a\u202eb", false)]
    [InlineData("a\u2066b", false)]
    [InlineData("a\u200fb", false)]
    [InlineData("\ufeffa", false)]
    [InlineData("two\nlines", false)]
    public void Signs_that_nobody_sees_are_kept_out_of_a_line(string text, bool plain) =>
        PlainText.IsPlain(text, lines: false).ShouldBe(plain);

    [Fact]
    public void Half_of_a_pair_is_kept_out() => PlainText.IsPlain("half " + (char)0xd83d, lines: false).ShouldBeFalse();

    [Fact]
    public void What_looks_alike_is_kept_alike() => PlainText.Composed("Mu\u0308ller").ShouldBe("M\u00fcller");

    [Fact]
    public void What_a_program_printed_shows_them()
    {
        PlainText.Printed("ok\0\u202e done\n\u001b[1m").ShouldBe("ok\ufffd\ufffd done\n\u001b[1m");
        PlainText.Printed("\ud83d 👍").ShouldBe("\ufffd 👍");
    }

    [Theory]
    [InlineData("Ottavine", "an Ottavine")]
    [InlineData("Stile 14", "a Stile 14")]
    [InlineData("laptop", "a laptop")]
    [InlineData("all-in-one", "an all-in-one")]
    [InlineData("8 GB stick", "an 8 GB stick")]
    [InlineData("L4", "an L4")]
    [InlineData("PL-08A", "a PL-08A")]
    [InlineData("Umber & Vane", "an Umber & Vane")]
    [InlineData("USB stick", "a USB stick")]
    [InlineData("one-off", "a one-off")]
    public void The_article_is_the_one_that_is_spoken(string named, string with) => Numbers.A(named).ShouldBe(with);
}
