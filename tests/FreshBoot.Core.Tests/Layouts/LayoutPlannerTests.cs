using CsCheck;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Layouts;
using FreshBoot.Formats.Partitions;

namespace FreshBoot.Core.Tests.Layouts;

public sealed class LayoutPlannerTests
{
    private const long MiB = 1L << 20;
    private const long GB = 1_000_000_000;

    /// <summary>Whatever somebody may ask, sensible or not.</summary>
    internal static Gen<LayoutAsk> AnyAsk { get; } =
        from size in Gen.OneOf(Gen.Long[100 * MiB, 40 * GB], Gen.Long[GB, 600 * GB], Gen.Long[100 * GB, 20_000 * GB])
        from sector in One(512, 512, 512, 4096)
        from firmware in One<string?>("bios", "bios", "uefi64", "uefi32", "board", "locked", null)
        from reach in One([.. ReachRules.Barriers.Select(b => b.Bytes), 200 * MiB, 60 * GB])
        from memory in One<long?>(null, 256, 1024, 4096, 16_384, 65_536)
        from system in Gen.Long[100 * MiB, 60 * GB]
        from scheme in One<PartitionScheme?>(null, null, PartitionScheme.Gpt, PartitionScheme.Mbr)
        from shares in AnyShare.Array[4]
        from flags in Gen.Bool.Array[2]
        select new LayoutAsk(
            size,
            sector,
            firmware,
            new Reach(firmware is "bios" or null ? reach : long.MaxValue, "a test", ReachSure.Measured),
            memory,
            system,
            "the system",
            new LayoutWishes(shares[0], shares[1], shares[2], shares[3], flags[0], flags[1]),
            scheme
        )
        {
            Encryption = new DriveEncryption(EncryptionBy.Luks, null),
        };

    [Fact]
    public void What_is_said_to_be_missing_makes_it_fit()
    {
        var (short_, open) = (0, 0);
        AnyAsk.Sample(
            ask =>
            {
                try
                {
                    LayoutPlanner.Plan(ask);
                }
                catch (LayoutCollisionException e)
                {
                    if (e.ShortBytes is not { } missing)
                    {
                        Interlocked.Increment(ref open);
                        return;
                    }
                    Interlocked.Increment(ref short_);
                    var more = e.Collides.Contains("reach")
                        ? ask with
                        {
                            Reach = ask.Reach with { Bytes = ask.Reach.Bytes + missing },
                        }
                        : ask with
                        {
                            DriveBytes = ask.DriveBytes + missing,
                        };
                    Should.NotThrow(() => LayoutPlanner.Plan(more), $"{e.Message} {e.ShortBytes}");
                }
                catch (RefusedException)
                {
                    // Something else than room.
                }
            },
            iter: Cases.Of(3_000)
        );
        short_.ShouldBeGreaterThan(300);
        // Where reach and drive are both too small, or half of whatever drive stays, more of one alone does not help.
        open.ShouldBePositive();
    }

    [Fact]
    public void What_is_told_of_a_partition_is_what_is_made()
    {
        foreach (var board in new[] { false, true })
        foreach (var encrypt in new[] { false, true })
        {
            var ask = new LayoutAsk(
                64 * GB,
                512,
                board ? "board" : "uefi64",
                new Reach(long.MaxValue, "a test", ReachSure.Known),
                4096,
                8 * GB,
                "the system",
                new LayoutWishes(Home: Share.Yes, Recovery: Share.Yes, Encrypt: encrypt)
            )
            {
                Encryption = new DriveEncryption(EncryptionBy.Luks, null),
            };
            var layout = LayoutPlanner.Plan(ask);
            var script = LayoutScript.Shell(layout, "a test");
            foreach (var p in layout.Partitions.Where(p => p.Use != PartitionUse.Extended))
            {
                var form = PartitionForms.Of(p.Use, board);
                p.FileSystem.ShouldBe(form.FileSystem);
                p.Type.ShouldBe(LayoutPlanner.TypeOf(layout.Scheme, p.Use, board, p.Encrypted));
                p.Encrypted.ShouldBe(encrypt && form.Personal);
                var device = p.Encrypted
                    ? $"\"/dev/mapper/{p.Use.ToString().ToLowerInvariant()}\""
                    : $"\"$(part {p.Number})\"";
                var make = form.FileSystem switch
                {
                    FileSystemKind.Fat32 => "mkfs.vfat -F 32",
                    FileSystemKind.Ext4 => "mkfs.ext4",
                    FileSystemKind.Swap => "mkswap",
                    _ => null,
                };
                if (make is not null)
                    script.Split('\n').ShouldContain(l => l.StartsWith(make) && l.EndsWith(device));
            }
            if (board)
            {
                var boot = layout.Partitions.Single(p => p.Use == PartitionUse.Boot);
                boot.Why.ShouldContain("FAT32");
                boot.Type.ShouldBe("c");
                boot.FileSystem.ShouldBe(FileSystemKind.Fat32);
            }
            script.Contains("cryptsetup").ShouldBe(encrypt);
        }
    }

    [Theory]
    [InlineData("tessaly-6-r2", "brings its own encryption", "Settings")]
    [InlineData("thimble-desk", "starts from no encrypted volume", "another system")]
    public void A_system_that_does_not_start_from_luks_gets_no_volume_and_is_told_why(
        string id,
        string says,
        string where
    )
    {
        var system = Shipped.Catalogue.System(id)!;
        var ask = new LayoutAsk(
            256 * GB,
            512,
            "uefi64",
            new Reach(long.MaxValue, "a test", ReachSure.Known),
            8192,
            30 * GB,
            system.FullName,
            new LayoutWishes(Encrypt: true)
        )
        {
            Encryption = system.Encryption,
        };
        var refused = Should.Throw<RefusedException>(() => LayoutPlanner.Plan(ask));
        refused.Message.ShouldContain(says);
        refused.Refusal.Wanted.ShouldContain(where);
    }

    private static Gen<T> One<T>(params T[] values) => Gen.Int[0, values.Length - 1].Select(i => values[i]);

    private static Gen<Share> AnyShare =>
        Gen.OneOf(
            Gen.Const(default(Share)),
            Gen.Const(Share.Yes),
            Gen.Long[MiB, 300 * GB].Select(bytes => new Share(true, bytes))
        );

    [Fact]
    public void No_layout_overlaps_leaves_the_drive_is_misaligned_or_starts_from_beyond_the_reach()
    {
        var made = 0;
        AnyAsk.Sample(
            ask =>
            {
                if (Planned(ask) is not { } layout)
                    return;
                Interlocked.Increment(ref made);
                var partitions = layout.Partitions;
                var flat = partitions.Where(p => p.Use != PartitionUse.Extended).OrderBy(p => p.StartLba).ToArray();
                // Told apart from the checker's own arithmetic.
                for (var i = 0; i < flat.Length; i++)
                {
                    (flat[i].StartLba * ask.SectorBytes % MiB).ShouldBe(0);
                    flat[i].SizeLba.ShouldBePositive();
                    flat[i].StartLba.ShouldBeGreaterThanOrEqualTo(i == 0 ? MiB / ask.SectorBytes : flat[i - 1].EndLba);
                    ((flat[i].EndLba) * ask.SectorBytes).ShouldBeLessThanOrEqualTo(ask.DriveBytes);
                }
                if (ask.Firmware is "bios" or null)
                    foreach (var p in flat.Where(p => p.Use is PartitionUse.Boot or PartitionUse.BiosBoot))
                        (p.EndLba * ask.SectorBytes).ShouldBeLessThanOrEqualTo(ask.Reach.Bytes);
                if (ask.Firmware is "bios" or null && flat.All(p => p.Use != PartitionUse.Boot))
                    (flat.Single(p => p.Use == PartitionUse.System).EndLba * ask.SectorBytes).ShouldBeLessThanOrEqualTo(
                        ask.Reach.Bytes
                    );
                (flat.Single(p => p.Use == PartitionUse.System).SizeLba * ask.SectorBytes).ShouldBeGreaterThanOrEqualTo(
                    ask.SystemBytes
                );
                LayoutCheck
                    .Of(
                        layout.Scheme,
                        layout.SectorBytes,
                        layout.Sectors,
                        partitions,
                        ask.Firmware is "uefi32" or "uefi64" or "bios" ? ask.Firmware : null,
                        ask.Reach.Bytes
                    )
                    .ShouldAllBe(f => f.Outcome != Outcome.Wall);
                partitions.ShouldAllBe(p => p.Why.Length > 20);
            },
            iter: 10_000
        );
        made.ShouldBeGreaterThan(2_000);
    }

    /// <summary>
    /// On tiny drives every order and every size is tried: where none fits the planner refuses, and where one fits it finds one.
    /// </summary>
    [Fact]
    public void Plans_where_any_division_would_fit_and_only_there() =>
        (
            from size in Gen.Long[3, 40]
            from reach in Gen.Long[1, 44]
            from gpt in Gen.Bool
            from keep in Gen.Long[0, 8]
            from system in Gen.Long[1, 12]
            from home in Gen.OneOf(Gen.Const(-1L), Gen.Long[0, 8])
            from recovery in Gen.OneOf(Gen.Const(-1L), Gen.Long[1, 6])
            select (size, reach, gpt, keep, system, home, recovery)
        ).Sample(
            t =>
            {
                var sizes = new LayoutSizes(3, 2, 2, 2, 2, 4, 5, 2, 0);
                var ask = new LayoutAsk(
                    (t.size * MiB) + (t.gpt ? 33 * 512 : 0),
                    512,
                    "bios",
                    new Reach(t.reach * MiB, "a test", ReachSure.Measured),
                    128,
                    t.system * MiB,
                    "the system",
                    new LayoutWishes(
                        Home: t.home < 0 ? default
                            : t.home == 0 ? Share.Yes
                            : new Share(true, t.home * MiB),
                        Recovery: t.recovery < 0 ? default : new Share(true, t.recovery * MiB),
                        Keep: t.keep == 0 ? default : new Share(true, t.keep * MiB)
                    ),
                    t.gpt ? PartitionScheme.Gpt : PartitionScheme.Mbr
                )
                {
                    Sizes = sizes,
                };
                (Planned(ask) is not null).ShouldBe(Fits(t.size, t.reach, t.gpt, t.keep, t.system, t.home, t.recovery));
            },
            iter: 5_000
        );

    /// <summary>Whether there is any place for all: boot files (2 MiB, or the system itself where all is within reach) in the reach.</summary>
    private static bool Fits(long size, long reach, bool gpt, long keep, long system, long home, long recovery)
    {
        // [1, size) in mebibytes. What stays comes first; everything else may come in any order.
        var pieces = new List<(string Name, long Size)>();
        if (gpt)
            pieces.Add(("core", 1));
        if (reach < size)
            pieces.Add(("boot", 2));
        pieces.Add(("system", system));
        if (recovery > 0)
            pieces.Add(("recovery", recovery));
        if (home >= 0)
            pieces.Add(("home", home == 0 ? 2 : home));
        var from = 1 + keep;
        var entries = pieces.Count + (keep > 0 ? 1 : 0);
        var records = !gpt && entries > 4 ? entries - 3 : 0;
        return from + pieces.Sum(p => p.Size) + records <= size
            && Orders(pieces).Any(order => Reached(order, from, reach, size));
    }

    private static bool Reached(IEnumerable<(string Name, long Size)> order, long from, long reach, long size)
    {
        var at = from;
        foreach (var (name, length) in order)
        {
            at += length;
            if (reach < size && name is "core" or "boot" && at > reach)
                return false;
            if (name == "core" && at > reach)
                return false;
        }
        return true;
    }

    private static IEnumerable<(string Name, long Size)[]> Orders(List<(string Name, long Size)> pieces)
    {
        if (pieces.Count == 0)
            return
            [
                [],
            ];
        return pieces.SelectMany(
            (p, i) => Orders([.. pieces.Where((_, j) => j != i)]).Select(rest => new[] { p }.Concat(rest).ToArray())
        );
    }

    internal static Layout? Planned(LayoutAsk ask)
    {
        try
        {
            return LayoutPlanner.Plan(ask);
        }
        catch (LayoutCollisionException e)
        {
            (e.ShortBytes ?? 1).ShouldBePositive();
            e.Collides.Count.ShouldBe(2);
            return null;
        }
        catch (RefusedException e)
        {
            e.Refusal.Where.ShouldBeOneOf("drive.sizeBytes", "memoryMiB");
            return null;
        }
    }

    private static LayoutAsk Ask(
        long drive,
        string? firmware,
        Dossier? facts = null,
        LayoutWishes? wishes = null,
        long memory = 4096,
        int sector = 512,
        string? bus = "ata"
    ) =>
        new(
            drive,
            sector,
            firmware,
            ReachRules.Of(facts ?? Dossier.Empty, firmware, bus),
            memory,
            8 * GB,
            "Wickerwork 26",
            wishes ?? new LayoutWishes()
        );

    private static Dossier With(string key, object value) => Facts.Of((key, value));

    private static LayoutPartition Of(Layout layout, PartitionUse use) => layout.Partitions.Single(p => p.Use == use);

    [Fact]
    public void Boot_files_stay_within_28_bits_8_gigabytes_and_34_gigabytes()
    {
        foreach (
            var (drive, known, reach) in new[]
            {
                (180 * GB, 120 * GB, (1L << 28) * 512),
                (60 * GB, 6 * GB, 1024L * 255 * 63 * 512),
                (40 * GB, 20 * GB, 65_535L * 16 * 63 * 512),
            }
        )
        {
            var layout = LayoutPlanner.Plan(Ask(drive, "bios", With("firmware.firstDriveBytes", known)));
            layout.Reach.Bytes.ShouldBe(reach);
            layout.Reach.Sure.ShouldBe(ReachSure.Derived);
            (Of(layout, PartitionUse.Boot).EndLba * 512).ShouldBeLessThanOrEqualTo(reach);
            layout.Scheme.ShouldBe(PartitionScheme.Mbr);
            Of(layout, PartitionUse.System).Why.ShouldContain("beyond the firmware's reach");
        }
    }

    [Fact]
    public void A_drive_of_4_terabytes_with_legacy_firmware_gets_a_GPT_and_a_place_for_the_loaders_core()
    {
        var layout = LayoutPlanner.Plan(Ask(4_000 * GB, "bios", With("firmware.year", 2010)));
        layout.Scheme.ShouldBe(PartitionScheme.Gpt);
        layout.SchemeWhy.ShouldContain("2^32");
        Of(layout, PartitionUse.BiosBoot).SizeLba.ShouldBe(2048);
        (Of(layout, PartitionUse.Boot).EndLba * 512).ShouldBeLessThanOrEqualTo((1L << 32) * 512);
    }

    [Fact]
    public void Uefi_of_either_word_size_gets_its_system_partition_and_no_reach()
    {
        var layout = LayoutPlanner.Plan(Ask(32 * GB, "uefi32", memory: 2048, bus: "emmc"));
        Of(layout, PartitionUse.Efi).SizeLba.ShouldBe(512 * 2048);
        layout.Partitions.ShouldNotContain(p => p.Use == PartitionUse.Boot);
        layout.Reach.Sure.ShouldBe(ReachSure.Known);

        // FAT32 with sectors of 4096 bytes has at least 65,525 clusters of one sector.
        var large = LayoutPlanner.Plan(Ask(20 * GB, "uefi64", sector: 4096));
        Of(large, PartitionUse.Efi).SizeLba.ShouldBeGreaterThan(65_525);
        large.Partitions.ShouldAllBe(p => p.StartLba % 256 == 0);
    }

    [Fact]
    public void Sleep_to_disk_writes_all_of_the_memory_and_wants_it_measured()
    {
        var layout = LayoutPlanner.Plan(Ask(256 * GB, "uefi64", wishes: new LayoutWishes(Sleep: true), memory: 16_384));
        Of(layout, PartitionUse.Swap).SizeLba.ShouldBe((16_384 + 4096) * 2048L);
        Should
            .Throw<RefusedException>(() =>
                LayoutPlanner.Plan(
                    Ask(256 * GB, "uefi64", wishes: new LayoutWishes(Sleep: true)) with
                    {
                        MemoryMiB = null,
                    }
                )
            )
            .Refusal.Where.ShouldBe("memoryMiB");
    }

    [Fact]
    public void A_reach_that_nobody_knows_is_on_the_safe_side_and_never_clear()
    {
        var layout = LayoutPlanner.Plan(Ask(60 * GB, "bios"));
        layout.Reach.Sure.ShouldBe(ReachSure.Unknown);
        layout.Reach.Outcome.ShouldBe(Outcome.Unknown);
        layout.Reach.Bytes.ShouldBe(1024L * 255 * 63 * 512);
        layout.Notes.ShouldContain(n => n.Outcome == Outcome.Unknown && n.Text.Contains("reach"));
        ReachRules
            .Of(Facts.Of(("firmware.reachBytes", 33_000_000_000L), ("firmware.year", 1995)), "bios", "ata")
            .Sure.ShouldBe(ReachSure.Measured);
        ReachRules.Of(Facts.Of(("firmware.year", 1996)), "bios", "ata").Bytes.ShouldBe(8_422_686_720);
        ReachRules.Of(Dossier.Empty, "bios", "sata").Sure.ShouldBe(ReachSure.Likely);
    }

    [Fact]
    public void Wishes_that_cannot_both_be_met_are_named_with_what_is_missing()
    {
        var kept = Should.Throw<LayoutCollisionException>(() =>
            LayoutPlanner.Plan(
                Ask(
                    60 * GB,
                    "bios",
                    With("firmware.reachBytes", 8 * GB),
                    new LayoutWishes(Keep: new Share(true, 20 * GB))
                )
            )
        );
        kept.Collides.ShouldBe(["keep", "reach"]);
        kept.ShortBytes!.Value.ShouldBeGreaterThan(12 * GB);

        var large = Should.Throw<LayoutCollisionException>(() =>
            LayoutPlanner.Plan(
                Ask(
                    64 * GB,
                    "uefi64",
                    wishes: new LayoutWishes(Home: new Share(true, 40 * GB), Sleep: true),
                    memory: 16_384
                )
            )
        );
        large.Collides.ShouldBe(["home", "sleep"]);
        large.Message.ShouldContain("missing");
    }

    [Fact]
    public void Where_a_system_stays_the_script_writes_nothing()
    {
        var kept = LayoutPlanner.Plan(
            Ask(250 * GB, "uefi64", wishes: new LayoutWishes(Keep: new Share(true, 90 * GB)))
        );
        var script = LayoutScript.Shell(kept, "MR-0417");
        script.ShouldNotContain("mkfs");
        script.ShouldNotContain("mkswap");
        script.ShouldNotContain("sfdisk --wipe");
        script.ShouldEndWith("exit 1\n");
        LayoutScript.Text(kept).ShouldStartWith("# One system stays.");
        SfdiskScript.Read(LayoutScript.Text(kept)).Partitions.Count.ShouldBe(kept.Partitions.Count);
        LayoutScript.Shell(LayoutPlanner.Plan(Ask(250 * GB, "uefi64")), "MR-0417").ShouldContain("mkfs.vfat");
    }

    [Fact]
    public void Past_four_partitions_an_MBR_holds_the_others_in_an_extended_one()
    {
        var layout = LayoutPlanner.Plan(
            Ask(
                500 * GB,
                "bios",
                With("firmware.firstDriveBytes", 120 * GB),
                new LayoutWishes(Home: Share.Yes, Data: Share.Yes, Recovery: Share.Yes)
            )
        );
        var box = Of(layout, PartitionUse.Extended);
        layout.Partitions.Select(p => p.Number).ShouldBe([1, 2, 3, 4, 5, 6, 7]);
        layout
            .Partitions.Where(p => p.Number > 4)
            .ShouldAllBe(p => p.StartLba > box.StartLba && p.EndLba <= box.EndLba);
    }

    [Fact]
    public void A_table_that_somebody_brings_is_held_against_the_same_rules()
    {
        IReadOnlyList<LayoutFinding> Check(string script, string firmware, long? reach = null)
        {
            var table = SfdiskScript.Read(script);
            var (scheme, partitions) = LayoutScript.From(table);
            return LayoutCheck.Of(scheme, table.SectorBytes, 100_000_000, partitions, firmware, reach);
        }
        Check("label: dos\n\nstart=2048, size=40000, type=83, bootable\nstart=30000, size=5000, type=82\n", "bios")
            .ShouldContain(f => f.Rule == "overlap" && f.Partition == 2);
        Check("label: dos\n\nstart=2048, size=90000000, type=83\n", "bios", 8_422_686_720)
            .ShouldHaveSingleItem()
            .Rule.ShouldBe("reach");
        Check("label: gpt\n\nstart=2048, size=99998976, type=0fc63daf-8483-4772-8e79-3d69d8477de4\n", "uefi64")
            .Select(f => f.Rule)
            .ShouldBe(["drive", "efi"], ignoreOrder: true);
        Check("label: dos\n\n1 : start=63, size=40000, type=83\n5 : start=50000, size=600, type=83\n", "bios")
            .Select(f => f.Rule)
            .ShouldBe(["alignment", "alignment", "extended"], ignoreOrder: true);
    }

    [Fact]
    public void A_layout_comes_back_from_its_own_table() =>
        AnyAsk.Sample(
            ask =>
            {
                if (Planned(ask) is not { } layout)
                    return;
                var table = SfdiskScript.Read(LayoutScript.Table(layout).Write());
                table.SectorBytes.ShouldBe(layout.SectorBytes);
                var (scheme, partitions) = LayoutScript.From(table);
                scheme.ShouldBe(layout.Scheme);
                partitions
                    .Select(p => (p.Number, p.StartLba, p.SizeLba, p.Type))
                    .ShouldBe(layout.Partitions.Select(p => (p.Number, p.StartLba, p.SizeLba, p.Type)));
                if (scheme == PartitionScheme.Gpt)
                    partitions.Select(p => p.Use).ShouldBe(layout.Partitions.Select(p => p.Use));
            },
            iter: 1_000
        );
}
