using System.Diagnostics;
using FreshBoot.Core.Layouts;

namespace FreshBoot.Server.Tests;

/// <summary>
/// The script of an encrypted layout, run with the real cryptsetup on files in the place of partitions. Opening a volume needs the
/// device mapper of a real kernel: there the passphrase is tried instead, and the file systems within are only named.
/// </summary>
public sealed class EncryptedLayoutTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("fresh-boot-luks-").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    private async Task<(int Code, string Out, string Error)> RunAsync(
        string program,
        string input,
        params string[] arguments
    )
    {
        var start = new ProcessStartInfo(program, arguments)
        {
            UseShellExecute = false,
            RedirectStandardInput = true,
            RedirectStandardOutput = true,
            RedirectStandardError = true,
        };
        start.Environment["PATH"] = $"{_folder}/bin:/usr/sbin:/sbin:{Environment.GetEnvironmentVariable("PATH")}";
        using var process = Process.Start(start)!;
        await process.StandardInput.WriteAsync(input);
        process.StandardInput.Close();
        var error = process.StandardError.ReadToEndAsync();
        var text = await process.StandardOutput.ReadToEndAsync();
        await process.WaitForExitAsync();
        return (process.ExitCode, text, await error);
    }

    private async Task ProgramAsync(string name, string script)
    {
        var path = Path.Combine(Directory.CreateDirectory(Path.Combine(_folder, "bin")).FullName, name);
        await File.WriteAllTextAsync(path, $"#!/bin/sh\n{script}\n");
        (await RunAsync("chmod", "", "755", path)).Code.ShouldBe(0);
    }

    [Fact]
    public async Task It_makes_luks2_volumes_that_the_passphrase_opens_and_no_other_and_swap_is_one_of_them()
    {
        var system = TestWorkshop.ShippedCatalogue().System("wickerwork-26")!;
        var layout = LayoutPlanner.Plan(
            new LayoutAsk(
                64_000_000_000,
                512,
                "uefi64",
                new Reach(long.MaxValue, "a test", ReachSure.Known),
                4096,
                28_000_000_000,
                system.FullName,
                new LayoutWishes(Home: Share.Yes, Sleep: true, Encrypt: true)
            )
            {
                Encryption = system.Encryption,
            }
        );
        var drive = Path.Combine(_folder, "drive");
        foreach (var p in layout.Partitions)
            await using (var file = File.Create($"{drive}{p.Number}"))
                file.SetLength(Math.Min(p.SizeLba * 512, 64 << 20));
        // The real one, made quick: what it makes is the same but for how long a guess takes.
        await ProgramAsync(
            "cryptsetup",
            """
            case $1 in
              luksFormat) shift; exec /usr/sbin/cryptsetup luksFormat --pbkdf pbkdf2 --pbkdf-force-iterations 1000 "$@" ;;
              open) exec /usr/sbin/cryptsetup open --test-passphrase --key-file - "$4" ;;
            esac
            """
        );
        foreach (var made in new[] { "sfdisk", "mkfs.ext4", "mkfs.vfat", "mkswap" })
            await ProgramAsync(made, $"echo \"{made} $*\" >> '{_folder}/made'");
        var script = Path.Combine(_folder, "layout.sh");
        await File.WriteAllTextAsync(script, LayoutScript.Shell(layout, "a test"));

        (await RunAsync("sh", "a good one\nanother\n", script, drive)).Code.ShouldNotBe(0);
        var (code, printed, error) = await RunAsync("sh", "a good one\na good one\n", script, drive);
        code.ShouldBe(0, error);
        // Never on a command line, where everybody on the machine reads it.
        (await File.ReadAllTextAsync(Path.Combine(_folder, "made"))).ShouldNotContain("a good one");

        var encrypted = layout.Partitions.Where(p => p.Encrypted).ToArray();
        encrypted
            .Select(p => p.Use)
            .ShouldBe([PartitionUse.System, PartitionUse.Swap, PartitionUse.Home], ignoreOrder: true);
        foreach (var p in encrypted)
        {
            var dump = (await RunAsync("/usr/sbin/cryptsetup", "", "luksDump", $"{drive}{p.Number}")).Out;
            dump.ShouldContain("Version:       \t2");
            dump.ShouldContain($"Label:         \t{p.Use.ToString().ToLowerInvariant()}");
            var uuid = (await RunAsync("/usr/sbin/cryptsetup", "", "luksUUID", $"{drive}{p.Number}")).Out.Trim();
            printed.ShouldContain($"{p.Use.ToString().ToLowerInvariant()} UUID={uuid} none luks");
            string[] tried = ["open", "--test-passphrase", "--key-file", "-", $"{drive}{p.Number}"];
            (await RunAsync("/usr/sbin/cryptsetup", "a good one", tried)).Code.ShouldBe(0);
            (await RunAsync("/usr/sbin/cryptsetup", "another", tried)).Code.ShouldNotBe(0);
        }
        foreach (var p in layout.Partitions.Where(p => !p.Encrypted))
            (await RunAsync("/usr/sbin/cryptsetup", "", "isLuks", $"{drive}{p.Number}")).Code.ShouldNotBe(0);
        var made_ = await File.ReadAllTextAsync(Path.Combine(_folder, "made"));
        made_.ShouldContain("mkfs.ext4 -q -L system /dev/mapper/system");
        made_.ShouldContain("mkswap -L swap /dev/mapper/swap");
        printed.ShouldContain("/dev/mapper/swap none swap sw 0 0");
        printed.ShouldContain("/dev/mapper/system / ext4");
    }
}
