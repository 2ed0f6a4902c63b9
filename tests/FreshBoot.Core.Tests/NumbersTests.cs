namespace FreshBoot.Core.Tests;

public class NumbersTests
{
    [Theory]
    [InlineData(1, "one")]
    [InlineData(12, "twelve")]
    [InlineData(13, "13")]
    [InlineData(-1, "-1")]
    public void Small_numbers_are_words(int number, string text) => Numbers.Word(number).ShouldBe(text);

    [Theory]
    [InlineData(1400, "M 14.00")]
    [InlineData(5, "M 0.05")]
    [InlineData(0, "M 0.00")]
    public void Money_has_two_places(int hundredths, string text) => Numbers.Money(hundredths).ShouldBe(text);

    [Theory]
    [InlineData("", new string[0])]
    [InlineData("a", new[] { "a" })]
    [InlineData("a or b", new[] { "a", "b" })]
    [InlineData("a, b or c", new[] { "a", "b", "c" })]
    public void Lists_read_as_people_say_them(string text, string[] parts) => Numbers.Join(parts, "or").ShouldBe(text);
}
