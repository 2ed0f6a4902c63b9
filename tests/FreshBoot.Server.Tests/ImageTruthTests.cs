using System.Globalization;
using System.Text.RegularExpressions;
using FreshBoot.Formats.Discs;
using FreshBoot.Formats.FileSystems;

namespace FreshBoot.Server.Tests;

/// <summary>
/// What our reader finds on real images is what an independent program reports: boot catalogue, partition tables, tree and
/// sizes, on the demo images and on the bootable images that Debian packages ship.
/// </summary>
public sealed partial class ImageTruthTests
{
    public static TheoryData<string> Images() =>
        [
            .. DemoImages.All(),
            "/usr/lib/memtest86+/memtest86+x64.iso",
            "/usr/lib/memtest86+/memtest86+ia32.iso",
            "/usr/lib/ipxe/ipxe.iso",
            "/usr/lib/grub-rescue/grub-rescue-cdrom.iso",
        ];

    [Theory]
    [MemberData(nameof(Images))]
    public async Task Catalogue_tables_tree_and_sizes_are_those_that_xorriso_reports(string path)
    {
        await using var file = File.OpenRead(path);
        var seen = ImageInspector.Look(file);
        var says = await ProgramOutput.Of(
            "xorriso",
            "-indev",
            path,
            "-report_el_torito",
            "plain",
            "-report_system_area",
            "plain",
            "-find",
            "/",
            "-type",
            "f",
            "-exec",
            "lsdl",
            "--"
        );

        Entry()
            .Matches(says)
            .Select(m =>
                $"{(m.Groups["a"].Value == "UEFI" ? "uefi" : "bios")} {m.Groups["b"].Value == "y"} {(m.Groups["c"].Value == "none" ? "none" : "floppy")} {m.Groups["d"].Value} {m.Groups["e"].Value}"
            )
            .ShouldBe(
                seen.Inspection.ElTorito.Select(e =>
                    $"{e.Platform} {e.Bootable} {e.Emulation} {e.LoadSectors} {e.Offset / 2048}"
                )
            );
        Mbr()
            .Matches(says)
            .Select(m =>
                $"{m.Groups["a"].Value} {m.Groups["b"].Value == "0x80"} {m.Groups["c"].Value} {m.Groups["d"].Value} {m.Groups["e"].Value}"
            )
            .ShouldBe(
                seen.Inspection.Partitions.Where(p => p.Table == "mbr")
                    .Select(p => $"{p.Number} {p.Active} {p.Type} {p.OffsetBytes / 512} {p.SizeBytes / 512}")
            );
        Gpt()
            .Matches(says)
            .Select(m => $"{m.Groups["a"].Value} {m.Groups["b"].Value} {m.Groups["c"].Value}")
            .ShouldBe(
                seen.Inspection.Partitions.Where(p => p.Table == "gpt")
                    .Select(p => $"{p.Number} {p.OffsetBytes / 512} {p.SizeBytes / 512}")
            );
        // It lists the catalogue by its path, not among the files.
        var catalogue = Catalogue().Match(says).Groups["a"].Value;
        FileLine()
            .Matches(says)
            .Select(m => $"{m.Groups["b"].Value} {m.Groups["a"].Value}")
            .Order(StringComparer.Ordinal)
            .ShouldBe(
                seen.Main!.Entries.Where(e => e.Kind == EntryKind.File && $"/{e.Path}" != catalogue)
                    .Select(e => $"/{e.Path} {e.SizeBytes.ToString(CultureInfo.InvariantCulture)}")
                    .Order(StringComparer.Ordinal)
            );
        seen.Inspection.Findings.Where(f => f.Fault).ShouldBeEmpty();
    }

    [GeneratedRegex(@"^El Torito cat path : (?<a>/.*)$", RegexOptions.Multiline | RegexOptions.ExplicitCapture)]
    private static partial Regex Catalogue();

    [GeneratedRegex(
        @"^El Torito boot img : +\d+ +(?<a>\w+) +(?<b>\w) +(?<c>\w[\w.]*) +0x\w+ +0x\w+ +(?<d>\d+) +(?<e>\d+)$",
        RegexOptions.Multiline | RegexOptions.ExplicitCapture
    )]
    private static partial Regex Entry();

    [GeneratedRegex(
        @"^MBR partition +: +(?<a>\d+) +(?<b>0x\w+) +0x(?<c>\w+) +(?<d>\d+) +(?<e>\d+)$",
        RegexOptions.Multiline | RegexOptions.ExplicitCapture
    )]
    private static partial Regex Mbr();

    [GeneratedRegex(
        @"^GPT start and size : +(?<a>\d+) +(?<b>\d+) +(?<c>\d+)$",
        RegexOptions.Multiline | RegexOptions.ExplicitCapture
    )]
    private static partial Regex Gpt();

    [GeneratedRegex(
        @"^-\S+ +\d+ +\d+ +\d+ +(?<a>\d+) .* '(?<b>/.*)'$",
        RegexOptions.Multiline | RegexOptions.ExplicitCapture
    )]
    private static partial Regex FileLine();
}
