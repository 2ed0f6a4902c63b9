using CsCheck;
using FreshBoot.Core.Runs;

namespace FreshBoot.Core.Tests.Runs;

public class StepOutputTests
{
    [Theory]
    [InlineData("EQUAL", "EQUAL\n", OutputVerdict.Done, "EQUAL")]
    [InlineData("EQUAL", "reading first.rom\nreading second.rom\nEQUAL\n$ ", OutputVerdict.Done, "EQUAL")]
    [InlineData(
        "EQUAL",
        "first.rom second.rom differ: byte 17, line 1\n",
        OutputVerdict.Wrong,
        "first.rom second.rom differ: byte 17, line 1"
    )]
    [InlineData("VERIFIED", "verifying... 40%\rverifying... 73%", OutputVerdict.NotYet, "verifying... 73%")]
    [InlineData("VERIFIED", "", OutputVerdict.NotYet, "")]
    [InlineData(
        "VERIFIED",
        "VERIFIED\nwriting the log, please wait",
        OutputVerdict.NotYet,
        "writing the log, please wait"
    )]
    [InlineData(
        "VERIFIED",
        "VERIFIED\nerror: the chip answered twice\n",
        OutputVerdict.Wrong,
        "error: the chip answered twice"
    )]
    [InlineData("VERIFIED", "\u001b[32mVERIFIED\u001b[0m\n", OutputVerdict.Done, "VERIFIED")]
    [InlineData("VERIFIED", "flash-chip: command not found\n", OutputVerdict.Wrong, "flash-chip: command not found")]
    [InlineData("SAME", "done\n", OutputVerdict.Wrong, "done")]
    [InlineData("VERIFIED", "copying 100 %\r\nVERIFIED\r\n", OutputVerdict.Done, "VERIFIED")]
    [InlineData(
        "extension active",
        "The extension active until 2028\n",
        OutputVerdict.Done,
        "The extension active until 2028"
    )]
    public void Output_is_held_against_what_it_should_be(
        string expected,
        string printed,
        OutputVerdict verdict,
        string line
    ) => StepOutput.Of(expected, printed).ShouldBe(new StepOutput(verdict, line));

    [Fact]
    public void Whatever_is_printed_it_is_never_done_without_the_expected_words() =>
        Gen.String.Sample(text =>
            StepOutput.Of("VERIFIED", text).Verdict != OutputVerdict.Done
            || text.Contains("VERIFIED", StringComparison.Ordinal)
        );
}
