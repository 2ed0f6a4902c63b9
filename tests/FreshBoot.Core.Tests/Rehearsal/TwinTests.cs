using System.Buffers.Binary;
using System.Text;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Rehearsal;

namespace FreshBoot.Core.Tests.Rehearsal;

public class TwinTests
{
    private static readonly InstallerWords Says = new("is accepted", "is not accepted", "no: ");

    [Theory]
    [InlineData(
        "x\n  no: the processor\n  no: no TPM\nThis machine is not accepted.\n",
        "",
        "refused",
        "It says: the processor; no TPM."
    )]
    [InlineData("This machine is accepted. Setup begins.\n", "", "letIn", "Setup begins")]
    [InlineData("Welcome", "Booting from DVD/CD...\nBooting from 0000:7c00\n", "loader", "neither yes nor no")]
    [InlineData("", "Booting from Hard Disk...\nNo bootable device.\n", "nothing", "found nothing")]
    [InlineData(
        "BdsDxe: starting Boot0001 \"UEFI QEMU\" from x\nBdsDxe: failed to start Boot0001\n",
        "",
        "nothing",
        "found nothing"
    )]
    [InlineData("BdsDxe: starting Boot0000 \"EFI Internal Shell\"\n", "", "nothing", "found nothing")]
    [InlineData("", "", "nothing", "not ended within the time")]
    public void A_start_is_judged_by_what_firmware_and_installer_say(
        string text,
        string firmware,
        string verdict,
        string why
    )
    {
        var judged = TwinVerdict.Judge(text, firmware, Says);
        judged.Verdict.ShouldBe(verdict);
        judged.Why.ShouldContain(why);
    }

    [Fact]
    public void The_twin_is_set_up_from_the_dossier_and_says_where_it_differs()
    {
        var twin = TwinMachine.Of(
            Facts.Of(
                ("firmware.kind", "uefi64"),
                ("firmware.startedBy", "uefi"),
                ("cpu.arch", "x86"),
                ("cpu.model", "Corvane C6-220"),
                ("cpu.level", "x86-64-v2"),
                ("identity.maker", "Brackwater"),
                ("identity.model", "Stile 12"),
                ("memory.installedMiB", 8192),
                ("tpm.version", "2.0")
            ),
            null,
            null
        );
        twin.Firmware.ShouldBe("uefi64");
        twin.MemoryMiB.ShouldBe(TwinMachine.MostMemoryMiB);
        twin.LacksFlags.ShouldContain("avx2");
        twin.LacksFlags.ShouldNotContain("sse4_2");
        twin.Differs.ShouldContain(d => d.Contains("8192"));
        var types = twin.Smbios.Select(s => s[0]).ToArray();
        types.ShouldBe((byte[])[1, 2, 4, 19, 43], ignoreOrder: true);
        // Each has a handle of its own, and ends with its strings.
        twin.Smbios.Select(s => BinaryPrimitives.ReadUInt16LittleEndian(s.AsSpan(2))).ShouldBeUnique();
        foreach (var structure in twin.Smbios)
            structure.AsSpan().EndsWith((byte[])[0, 0]).ShouldBeTrue();
        Encoding.ASCII.GetString(twin.Smbios[0]).ShouldContain("Stile 12");
        BinaryPrimitives
            .ReadUInt32LittleEndian(twin.Smbios.Single(s => s[0] == 19).AsSpan(8))
            .ShouldBe(8192u * 1024 - 1);
    }

    [Theory]
    [InlineData("bios", "uefi64", "cannot start by UEFI")]
    [InlineData("uefi32", "uefi64", "32-bit")]
    [InlineData("locked", null, "until it is replaced")]
    public void Firmware_that_the_machine_does_not_have_is_refused(string kind, string? wanted, string says) =>
        Should
            .Throw<RefusedException>(() => TwinMachine.Of(Facts.Of(("firmware.kind", kind)), wanted, null))
            .Refusal.What.ShouldContain(says);

    [Fact]
    public void What_nobody_knows_is_said()
    {
        var twin = TwinMachine.Of(Facts.Of(), null, null);
        twin.Differs.Count(d => d.StartsWith("Nobody knows", StringComparison.Ordinal)).ShouldBe(3);
    }
}
