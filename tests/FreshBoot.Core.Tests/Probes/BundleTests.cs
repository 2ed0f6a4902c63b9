using System.Formats.Tar;
using System.IO.Compression;
using System.Text;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Probes;
using FreshBoot.Workshop.Simulated;

namespace FreshBoot.Core.Tests.Probes;

public class BundleTests
{
    private static readonly SimulatedMachine Stile = new()
    {
        Tag = "MR-0417",
        Maker = "Brackwater",
        Model = "Stile 14",
        Serial = "BW-14C8-20931",
        Board = "ST14-8",
        Cpu = "Corvane C8-350",
        Level = "v3",
        Cores = 4,
        Slots = [new(4096), new(0)],
        MemoryType = "DDR4 SO-DIMM",
        MaxMemoryMiB = 16384,
        Drives = [new(128_035_676_160, "sata", false, "Sill S128")],
        Devices =
        [
            new("0300", "Corvane", "C8 graphics"),
            new("0280", "Airlath", "AL-43 wireless"),
            new("0200", "Netherby", "NB-12"),
        ],
    };

    private static Report Read(byte[] bundle)
    {
        using var stream = new MemoryStream(bundle);
        return ProbeReader.Read(ProbeBundle.Read(stream, "a.tar.gz"), "a.tar.gz");
    }

    private static Refusal Refused(byte[] bytes) => Should.Throw<RefusedException>(() => Read(bytes)).Refusal;

    private static byte[] Archive(params (string Name, byte[] Content)[] members) =>
        Archive(tar =>
        {
            foreach (var (name, content) in members)
                tar.WriteEntry(
                    new UstarTarEntry(TarEntryType.RegularFile, name) { DataStream = new MemoryStream(content) }
                );
        });

    private static byte[] Archive(Action<TarWriter> write)
    {
        using var bytes = new MemoryStream();
        using (var gzip = new GZipStream(bytes, CompressionLevel.Fastest, leaveOpen: true))
        using (var tar = new TarWriter(gzip, TarEntryFormat.Ustar))
            write(tar);
        return bytes.ToArray();
    }

    private static byte[] Manifest(string more = "") =>
        Encoding.UTF8.GetBytes($"{ProbeBundle.Magic}\ntaken 2026-12-03T13:20:00Z\nroot yes\n{more}");

    [Fact]
    public void A_bundle_gives_what_the_machine_is()
    {
        var dossier = Derivation.Complete(Read(SimulatedProbe.Bundle(Stile, Facts.Noon)).Readings, Shipped.Catalogue);

        dossier.Word("identity.maker").ShouldBe("Brackwater");
        dossier.Word("identity.model").ShouldBe("Stile 14");
        dossier.Word("identity.serial").ShouldBe("BW-14C8-20931");
        dossier.Word("identity.board").ShouldBe("ST14-8");
        dossier.Word("cpu.model").ShouldBe("Corvane C8-350");
        dossier.Word("cpu.level").ShouldBe("x86-64-v3");
        dossier.Word("cpu.generation").ShouldBe("C8");
        dossier.Number("cpu.wordBits").ShouldBe(64);
        dossier.Number("cpu.cores").ShouldBe(4);
        dossier.Number("memory.installedMiB").ShouldBe(4096);
        dossier.Number("memory.visibleMiB").ShouldBe(4096 * 96 / 100);
        dossier.Number("memory.maxMiB").ShouldBe(16384);
        dossier.Number("memory.slots").ShouldBe(2);
        dossier.Number("memory.slotsUsed").ShouldBe(1);
        dossier.Word("memory.type").ShouldBe("DDR4 SO-DIMM");
        dossier.Number("storage.0.sizeBytes").ShouldBe(128_035_676_160);
        dossier.Word("storage.0.bus").ShouldBe("sata");
        dossier.Word("storage.0.kind").ShouldBe("flash");
        dossier["storage.1.sizeBytes"].ShouldBeNull("stick, loop and compressed memory are no drives");
        dossier.Word("firmware.startedBy").ShouldBe("uefi");
        dossier.Word("firmware.kind").ShouldBe("uefi64");
        dossier.Word("firmware.secureBoot").ShouldBe("able");
        dossier["tpm.version"].ShouldBeNull("a TPM that is not seen may be absent, a header or off");
        dossier.Word("network.0.model").ShouldBe("Netherby NB-12");
        dossier.Word("network.0.kind").ShouldBe("wired");
        dossier.Word("network.1.model").ShouldBe("Airlath AL-43 wireless");
        dossier.Word("graphics.0.model").ShouldBe("Corvane C8 graphics");
        dossier.Number("graphics.0.class").ShouldBe(2);
        dossier.Facts.ShouldAllBe(f => f.Disagreeing.Count == 0);
    }

    [Fact]
    public void A_start_by_bios_leaves_open_what_the_firmware_can_do_to_its_own_table()
    {
        var dossier = Derivation.Complete(
            Read(SimulatedProbe.Bundle(Stile with { StartedBy = "bios" }, Facts.Noon)).Readings,
            Shipped.Catalogue
        );

        dossier.Word("firmware.startedBy").ShouldBe("bios");
        dossier.Word("firmware.kind").ShouldBe("uefi64");
        dossier.Find("firmware.kind")!.Origin.ShouldBe(Origin.Derived);
        dossier["firmware.secureBoot"].ShouldBeNull();
    }

    [Fact]
    public void One_unreadable_source_is_a_warning_and_the_rest_is_used()
    {
        var sources = SimulatedProbe.Sources(Stile).ToDictionary();
        sources["lscpu.json"] = sources["lscpu.json"][..120];
        var report = Read(SimulatedProbe.Pack(sources, Facts.Noon));

        report.Warnings.ShouldContain(w => w.StartsWith("lscpu.json, line") && w.Contains("cut off"));
        var dossier = Dossier.From(report.Readings);
        dossier.Word("cpu.model").ShouldBe("Corvane C8-350");
        dossier.Find("cpu.model")!.Source.ShouldBe("cpuinfo");
    }

    [Fact]
    public void Where_lsblk_cannot_be_read_the_plain_listing_stands_in()
    {
        var sources = SimulatedProbe.Sources(Stile).ToDictionary();
        sources["lsblk.json"] = "{"u8.ToArray();
        sources["block.txt"] = Encoding.UTF8.GetBytes(
            "loop0 8 0 0 /sys/devices/virtual/block/loop0 \nsda 250069680 0 0 /sys/devices/pci0000:00/0000:00:17.0/ata1/host0/block/sda Sill S128\nsdb 30720000 1 1 /sys/devices/pci0000:00/usb1/1-1/block/sdb Stick\n"
        );
        var dossier = Dossier.From(Read(SimulatedProbe.Pack(sources, Facts.Noon)).Readings);

        dossier.Number("storage.0.sizeBytes").ShouldBe(250069680L * 512);
        // "ata1" is the name of a port of parallel ATA too: without the driver's word nobody knows.
        dossier.Word("storage.0.bus").ShouldBeNull();
        dossier["storage.1.sizeBytes"].ShouldBeNull();
        foreach (var bus in new[] { "sata", "ata" })
        {
            sources["ata.txt"] = Encoding.UTF8.GetBytes($"sda {bus}\n");
            Dossier.From(Read(SimulatedProbe.Pack(sources, Facts.Noon)).Readings).Word("storage.0.bus").ShouldBe(bus);
        }
    }

    [Fact]
    public void A_missing_source_says_why() =>
        Read(SimulatedProbe.Bundle(Stile, Facts.Noon))
            .Warnings.ShouldContain(w => w.StartsWith("tpm.txt is missing: the system sees no TPM"));

    [Fact]
    public void Fillers_of_firmware_makers_are_no_facts()
    {
        var report = Read(
            SimulatedProbe.Bundle(
                Stile with
                {
                    Serial = "To Be Filled By O.E.M.",
                    Model = "System Product Name",
                },
                Facts.Noon
            )
        );

        Dossier.From(report.Readings)["identity.serial"].ShouldBeNull();
        Dossier.From(report.Readings)["identity.model"].ShouldBeNull();
        report.Warnings.ShouldContain(w => w.Contains("filler"));
    }

    [Fact]
    public void A_number_in_its_header_that_is_too_large_for_any_file_is_refused_as_damage()
    {
        using var unpacked = new MemoryStream();
        using (
            var gzip = new System.IO.Compression.GZipStream(
                new MemoryStream(SimulatedProbe.Bundle(Stile, Facts.Noon)),
                System.IO.Compression.CompressionMode.Decompress
            )
        )
            gzip.CopyTo(unpacked);
        // Mode, owner, group, size and time of the first member, in base 256 (byte 100 on).
        foreach (var at in new[] { 100, 108, 116, 124, 136 })
        {
            var bytes = unpacked.ToArray();
            bytes.AsSpan(at, 8).Fill(0xff);
            bytes[at] = 0x80;
            using var packed = new MemoryStream();
            using (
                var gzip = new System.IO.Compression.GZipStream(
                    packed,
                    System.IO.Compression.CompressionMode.Compress,
                    leaveOpen: true
                )
            )
                gzip.Write(bytes);
            packed.Position = 0;
            Should.Throw<RefusedException>(() => ProbeBundle.Read(packed, "a"), $"byte {at}");
        }
    }

    [Fact]
    public void An_archive_that_is_cut_off_anywhere_is_refused_and_never_half_read()
    {
        var bundle = SimulatedProbe.Bundle(Stile, Facts.Noon);
        for (var length = 0; length < bundle.Length; length += Math.Max(1, bundle.Length / 97))
            Refused(bundle[..length]).Kind.ShouldBe(RefusalKind.Unreadable, $"at {length} of {bundle.Length}");
        Refused(bundle[..^1]).Kind.ShouldBe(RefusalKind.Unreadable);
        Refused(bundle[..^9]).Kind.ShouldBe(RefusalKind.Unreadable);
    }

    [Fact]
    public void A_byte_flipped_anywhere_is_refused_or_changes_nothing()
    {
        var bundle = SimulatedProbe.Bundle(Stile, Facts.Noon);
        var whole = Read(bundle).Readings.Count;
        for (var at = 0; at < bundle.Length; at += Math.Max(1, bundle.Length / 211))
        {
            var damaged = bundle.ToArray();
            damaged[at] ^= 0x55;
            try
            {
                Read(damaged).Readings.Count.ShouldBe(whole, $"at {at}");
            }
            catch (RefusedException e)
            {
                e.Refusal.Wanted.ShouldNotBeEmpty();
            }
        }
    }

    [Theory]
    [InlineData("../lscpu.json")]
    [InlineData("/etc/lscpu.json")]
    [InlineData("a/../../lscpu.json")]
    [InlineData("..\\lscpu.json")]
    public void Names_that_lead_out_are_refused(string name)
    {
        var refusal = Refused(Archive((ProbeBundle.ManifestName, Manifest()), (name, "x"u8.ToArray())));

        refusal.Kind.ShouldBe(RefusalKind.Unreadable);
        refusal.Where.ShouldContain("lscpu.json");
    }

    [Fact]
    public void Links_are_refused() =>
        Refused(
            Archive(tar =>
                tar.WriteEntry(new UstarTarEntry(TarEntryType.SymbolicLink, "lscpu.json") { LinkName = "/etc/passwd" })
            )
        )
            .What.ShouldContain("no plain file");

    [Fact]
    public void A_member_that_unpacks_to_gigabytes_is_refused_before_it_is_unpacked()
    {
        // A header that promises 4 GiB, and a stream of zeros that would go on to deliver them.
        var refusal = Refused(
            Archive(
                tar =>
                    tar.WriteEntry(
                        new UstarTarEntry(TarEntryType.RegularFile, "lscpu.json") { DataStream = new Zeros(4L << 30) }
                    ),
                limit: 1 << 20
            )
        );

        refusal.Kind.ShouldBe(RefusalKind.TooLarge);
        refusal.Where.ShouldContain("lscpu.json");
    }

    [Fact]
    public void Many_members_that_add_up_are_refused_too()
    {
        var refusal = Refused(
            Archive([
                (ProbeBundle.ManifestName, Manifest()),
                .. Enumerable.Range(0, 12).Select(i => ($"unknown{i}", new byte[7 << 20])),
            ])
        );

        refusal.Kind.ShouldBe(RefusalKind.TooLarge);
    }

    [Fact]
    public void Without_a_manifest_or_with_another_format_it_is_refused()
    {
        Refused(Archive(("lscpu.json", "{}"u8.ToArray()))).What.ShouldContain("manifest");
        Refused(Archive((ProbeBundle.ManifestName, "fresh-boot-probe 99\n"u8.ToArray()))).Where.ShouldContain("line 1");
        Refused(
            Archive(
                (ProbeBundle.ManifestName, Manifest("have meminfo.txt 99\n")),
                ("meminfo.txt", "MemTotal: 1 kB\n"u8.ToArray())
            )
        )
            .Where.ShouldContain("line 4");
        Refused(Archive((ProbeBundle.ManifestName, Manifest()))).What.ShouldContain("No source");
    }

    [Fact]
    public void A_member_nobody_knows_is_left_out_with_a_word()
    {
        var report = Read(
            Archive(
                (ProbeBundle.ManifestName, Manifest()),
                ("meminfo.txt", "MemTotal:  2048000 kB\n"u8.ToArray()),
                ("notes.txt", "hello"u8.ToArray())
            )
        );

        report.Warnings.ShouldContain(w => w.StartsWith("notes.txt"));
        Dossier.From(report.Readings).Number("memory.visibleMiB").ShouldBe(2000);
    }

    /// <summary>Packs what would be larger than anybody wants to make for a test: the compressed stream is cut at a limit.</summary>
    private static byte[] Archive(Action<TarWriter> write, int limit)
    {
        using var bytes = new Limited(limit);
        try
        {
            using var gzip = new GZipStream(bytes, CompressionLevel.Fastest, leaveOpen: true);
            using var tar = new TarWriter(gzip, TarEntryFormat.Ustar, leaveOpen: true);
            write(tar);
        }
        catch (EndOfStreamException)
        {
            // Enough: the reader must not get as far as this.
        }
        return bytes.ToArray();
    }

    private sealed class Limited(int limit) : MemoryStream
    {
        public override void Write(byte[] buffer, int offset, int count)
        {
            if (Length + count > limit)
                throw new EndOfStreamException();
            base.Write(buffer, offset, count);
        }

        public override void Write(ReadOnlySpan<byte> buffer) => Write(buffer.ToArray(), 0, buffer.Length);
    }

    private sealed class Zeros(long length) : Stream
    {
        private long _at;
        public override bool CanRead => true;
        public override bool CanSeek => true;
        public override bool CanWrite => false;
        public override long Length => length;
        public override long Position
        {
            get => _at;
            set => _at = value;
        }

        public override int Read(byte[] buffer, int offset, int count)
        {
            var read = (int)Math.Min(count, length - _at);
            Array.Clear(buffer, offset, read);
            _at += read;
            return read;
        }

        public override void Flush() { }

        public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

        public override void SetLength(long value) => throw new NotSupportedException();

        public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
    }
}
