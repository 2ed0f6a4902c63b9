using FreshBoot.Core.Patching;

namespace FreshBoot.Core.Tests.Patching;

public class GateFileTests
{
    private static readonly GateFile Original = GateFile.Original(Shipped.Catalogue.System("tessaly-6-r2")!);

    [Fact]
    public void The_original_checks_every_blocking_gate_and_no_advisory_one()
    {
        Original
            .Write()
            .ShouldBe(
                "gates 1\nsystem tessaly-6-r2\ngate processor-list check\ngate tpm check\ngate uefi check\ngate secure-boot check\ngate memory-gate check\n"
            );
        Original.Gates.ShouldNotContain(g => g.Gate == "disk-notice");
    }

    [Fact]
    public void Lifting_changes_just_the_gates_that_are_named_and_twice_is_the_same_as_once()
    {
        var lifted = Original.Lift(["tpm", "secure-boot"]);

        lifted.Gates.Where(g => !g.Checks).Select(g => g.Gate).ShouldBe(["tpm", "secure-boot"]);
        lifted.Lift(["tpm"]).Write().ShouldBe(lifted.Write());
        Should.Throw<RefusedException>(() => Original.Lift(["bell"])).Refusal.What.ShouldContain("bell");
    }

    [Fact]
    public void What_is_written_reads_back() =>
        GateFile.Read(Original.Lift(["tpm"]).Write()).Write().ShouldBe(Original.Lift(["tpm"]).Write());

    [Theory]
    [InlineData("", "line 1")]
    [InlineData("gates 2\nsystem x\n", "line 1")]
    [InlineData("gates 1\nsystem x\ngate tpm maybe\n", "line 3")]
    [InlineData("gates 1\nsystem x\ngate tpm check\ndoor\n", "line 4")]
    public void What_is_no_gate_file_is_refused_with_the_line(string text, string line) =>
        Should.Throw<RefusedException>(() => GateFile.Read(text)).Refusal.Where.ShouldContain(line);
}
