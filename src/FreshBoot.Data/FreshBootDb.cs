using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Storage.ValueConversion;

namespace FreshBoot.Data;

/// <summary>The workshop's database on SQLite.</summary>
public sealed class FreshBootDb(DbContextOptions<FreshBootDb> options) : DbContext(options)
{
    /// <summary>One row a machine, with its current dossier as a document.</summary>
    public DbSet<MachineRow> Machines => Set<MachineRow>();

    /// <summary>Every reading that ever came in; rows are only added.</summary>
    public DbSet<FactRow> FactHistory => Set<FactRow>();

    /// <summary>The probe bundles that came in; their bytes lie in the data folder under their SHA-256.</summary>
    public DbSet<BundleRow> Bundles => Set<BundleRow>();

    /// <summary>Runs with the snapshot they began from.</summary>
    public DbSet<RunRow> Runs => Set<RunRow>();

    /// <summary>The events of runs; rows are only added.</summary>
    public DbSet<RunEventRow> RunEvents => Set<RunEventRow>();

    /// <summary>Salvaged parts.</summary>
    public DbSet<PartRow> Parts => Set<PartRow>();

    /// <summary>Photos of machines; their bytes lie in the data folder under their SHA-256.</summary>
    public DbSet<PhotoRow> Photos => Set<PhotoRow>();

    /// <summary>Bundles that came without a tag and wait for one.</summary>
    public DbSet<ArrivalRow> Arrivals => Set<ArrivalRow>();

    /// <summary>Probe sticks that may ask for one-time codes.</summary>
    public DbSet<StickRow> Sticks => Set<StickRow>();

    /// <summary>The orders.</summary>
    public DbSet<OrderRow> Orders => Set<OrderRow>();

    /// <summary>The shop's changes to the catalogue.</summary>
    public DbSet<EntryVersionRow> EntryVersions => Set<EntryVersionRow>();

    /// <summary>Installer images.</summary>
    public DbSet<ImageRow> Images => Set<ImageRow>();

    /// <summary>Lines of checksum lists.</summary>
    public DbSet<ChecksumRow> Checksums => Set<ChecksumRow>();

    /// <summary>Versions of the shop's recipes; rows are only added.</summary>
    public DbSet<RecipeRow> Recipes => Set<RecipeRow>();

    /// <summary>Sticks, cards and discs.</summary>
    public DbSet<MediumRow> Media => Set<MediumRow>();

    /// <summary>Long work.</summary>
    public DbSet<JobRow> Jobs => Set<JobRow>();

    /// <inheritdoc/>
    protected override void ConfigureConventions(ModelConfigurationBuilder configurationBuilder) =>
        // SQLite has no DateTimeOffset that it could order by: times are UTC milliseconds since 1970.
        configurationBuilder.Properties<DateTimeOffset>().HaveConversion<UtcMilliseconds>();

    /// <inheritdoc/>
    protected override void OnModelCreating(ModelBuilder modelBuilder)
    {
        modelBuilder.Entity<MachineRow>(machine =>
        {
            machine.ToTable("machines");
            machine.HasIndex(m => m.Tag).IsUnique();
            machine.HasIndex(m => m.Bay).IsUnique();
            machine.Property(m => m.Tag).UseCollation("NOCASE");
            machine.Property(m => m.Version).IsConcurrencyToken();
        });
        modelBuilder.Entity<FactRow>(fact =>
        {
            fact.ToTable("fact_history");
            fact.HasIndex(f => new { f.MachineId, f.Key });
            fact.HasOne<MachineRow>().WithMany().HasForeignKey(f => f.MachineId).OnDelete(DeleteBehavior.Restrict);
        });
        modelBuilder.Entity<BundleRow>(bundle =>
        {
            bundle.ToTable("bundles");
            bundle.HasOne<MachineRow>().WithMany().HasForeignKey(b => b.MachineId).OnDelete(DeleteBehavior.Restrict);
        });
        modelBuilder.Entity<PartRow>(part =>
        {
            part.ToTable("parts");
            part.HasIndex(p => p.ReservedFor);
            part.Property(p => p.Version).IsConcurrencyToken();
        });
        modelBuilder.Entity<PhotoRow>(photo =>
        {
            photo.ToTable("photos");
            photo.HasIndex(p => new { p.MachineId, p.Sha256 }).IsUnique();
            photo.HasOne<MachineRow>().WithMany().HasForeignKey(p => p.MachineId).OnDelete(DeleteBehavior.Restrict);
        });
        modelBuilder.Entity<ArrivalRow>().ToTable("arrivals");
        modelBuilder.Entity<StickRow>(stick =>
        {
            stick.ToTable("sticks");
            stick.HasIndex(s => s.KeySha256).IsUnique();
        });
        modelBuilder.Entity<OrderRow>(order =>
        {
            order.ToTable("orders");
            order.HasKey(o => o.Id);
            order.Property(o => o.Version).IsConcurrencyToken();
        });
        modelBuilder.Entity<EntryVersionRow>(version =>
        {
            version.ToTable("catalogue_versions");
            version
                .HasIndex(v => new
                {
                    v.Kind,
                    v.EntryId,
                    v.Version,
                })
                .IsUnique();
        });
        MapRuns(modelBuilder);
        MapImages(modelBuilder);
    }

    private static void MapImages(ModelBuilder modelBuilder)
    {
        modelBuilder.Entity<ImageRow>(image =>
        {
            image.ToTable("images");
            image.HasIndex(i => i.Sha256);
            image.Property(i => i.Version).IsConcurrencyToken();
        });
        modelBuilder.Entity<ChecksumRow>(checksum =>
        {
            checksum.ToTable("checksums");
            checksum.HasIndex(c => new { c.Name, c.Sha256 }).IsUnique();
            checksum.HasIndex(c => c.Sha256);
        });
        modelBuilder.Entity<RecipeRow>(recipe =>
        {
            recipe.ToTable("recipe_versions");
            recipe.HasIndex(r => new { r.RecipeId, r.Version }).IsUnique();
        });
        modelBuilder.Entity<MediumRow>(medium =>
        {
            medium.ToTable("media");
            medium.HasIndex(m => m.Label).IsUnique();
            medium.Property(m => m.Version).IsConcurrencyToken();
        });
        modelBuilder.Entity<JobRow>(job =>
        {
            job.ToTable("jobs");
            job.HasIndex(j => j.State);
            job.HasIndex(j => j.ImageId);
        });
    }

    private static void MapRuns(ModelBuilder modelBuilder)
    {
        modelBuilder.Entity<RunRow>(run =>
        {
            run.ToTable("runs");
            run.HasIndex(r => r.MachineId);
            run.HasOne<MachineRow>().WithMany().HasForeignKey(r => r.MachineId).OnDelete(DeleteBehavior.Restrict);
            run.Property(r => r.Events).IsConcurrencyToken();
        });
        modelBuilder.Entity<RunEventRow>(e =>
        {
            e.ToTable("run_events");
            // One place in the chain and one event of a name: whoever is second is refused by the database itself.
            e.HasIndex(r => new { r.RunId, r.Seq }).IsUnique();
            e.HasIndex(r => new { r.RunId, r.EventId }).IsUnique();
            e.HasOne<RunRow>().WithMany().HasForeignKey(r => r.RunId).OnDelete(DeleteBehavior.Restrict);
        });
    }

    private sealed class UtcMilliseconds()
        : ValueConverter<DateTimeOffset, long>(
            t => t.ToUnixTimeMilliseconds(),
            ms => DateTimeOffset.FromUnixTimeMilliseconds(ms)
        );
}

/// <summary>A machine and its current dossier.</summary>
public sealed class MachineRow
{
    /// <summary>Key of the row.</summary>
    public int Id { get; init; }

    /// <summary>The asset tag, upper case.</summary>
    public required string Tag { get; init; }

    /// <summary>Goes up with every change; the ETag.</summary>
    public int Version { get; set; } = 1;

    /// <summary>The bay it stands in, 1 to 6; null on the shelf.</summary>
    public int? Bay { get; set; }

    /// <summary>The system chosen for it; null while nobody chose.</summary>
    public string? Aim { get; set; }

    /// <summary>When it was taken in.</summary>
    public DateTimeOffset TakenInAt { get; init; }

    /// <summary>The current readings as JSON, read in one go.</summary>
    public string Dossier { get; set; } = "[]";

    /// <summary>The place of the next reading in the order of receipt.</summary>
    public long NextReceipt { get; set; } = 1;

    /// <summary>When readings last came in.</summary>
    public DateTimeOffset LastReceivedAt { get; set; }
}

/// <summary>A salvaged part on the shelf.</summary>
public sealed class PartRow
{
    /// <summary>Key of the row.</summary>
    public int Id { get; init; }

    /// <summary>Goes up with every change.</summary>
    public int Version { get; set; } = 1;

    /// <summary>Its kind, such as <c>memory</c>.</summary>
    public required string Kind { get; set; }

    /// <summary>What it is, in words.</summary>
    public required string About { get; set; }

    /// <summary>For memory its type, such as <c>DDR4 SO-DIMM</c>.</summary>
    public string? Type { get; set; }

    /// <summary>For memory its size in MiB.</summary>
    public int? SizeMiB { get; set; }

    /// <summary>For drives its size in bytes.</summary>
    public long? SizeBytes { get; set; }

    /// <summary>Where it came from: a tag, or words.</summary>
    public required string From { get; set; }

    /// <summary><c>untested</c>, <c>passed</c> or <c>failed</c>.</summary>
    public required string Test { get; set; }

    /// <summary>Tag of the machine that it is kept for.</summary>
    public string? ReservedFor { get; set; }

    /// <summary>Tag of the machine that it went into; it is not on the shelf any more.</summary>
    public string? FittedIn { get; set; }

    /// <summary>Who changed it last.</summary>
    public required string By { get; set; }

    /// <summary>When it was changed last.</summary>
    public required DateTimeOffset At { get; set; }
}

/// <summary>A photo of a machine.</summary>
public sealed class PhotoRow
{
    /// <summary>Key of the row.</summary>
    public int Id { get; init; }

    /// <summary>The machine.</summary>
    public required int MachineId { get; init; }

    /// <summary>SHA-256 of its bytes, hexadecimal.</summary>
    public required string Sha256 { get; init; }

    /// <summary>Its media type.</summary>
    public required string MediaType { get; init; }

    /// <summary>Its size.</summary>
    public required long SizeBytes { get; init; }

    /// <summary>Width in pixels.</summary>
    public required int Width { get; init; }

    /// <summary>Height in pixels.</summary>
    public required int Height { get; init; }

    /// <summary>What it shows.</summary>
    public required string Note { get; init; }

    /// <summary>Who took it.</summary>
    public required string By { get; init; }

    /// <summary>When it came in.</summary>
    public required DateTimeOffset At { get; init; }
}

/// <summary>A bundle that came without a tag.</summary>
public sealed class ArrivalRow
{
    /// <summary>Key of the row.</summary>
    public int Id { get; init; }

    /// <summary>SHA-256 of the bundle, hexadecimal.</summary>
    public required string Sha256 { get; init; }

    /// <summary>The name it came under.</summary>
    public required string Name { get; init; }

    /// <summary>Maker and model, as the bundle says.</summary>
    public required string Model { get; init; }

    /// <summary>Serial number, as the bundle says.</summary>
    public required string Serial { get; init; }

    /// <summary>When it came in.</summary>
    public required DateTimeOffset ReceivedAt { get; init; }
}

/// <summary>A probe stick.</summary>
public sealed class StickRow
{
    /// <summary>Key of the row.</summary>
    public int Id { get; init; }

    /// <summary>Its name.</summary>
    public required string Name { get; init; }

    /// <summary>SHA-256 of its key; the key itself is on the stick only.</summary>
    public required string KeySha256 { get; init; }

    /// <summary>Who made it.</summary>
    public required string By { get; init; }

    /// <summary>When it was made.</summary>
    public required DateTimeOffset At { get; init; }

    /// <summary>When it was barred; null while it may be used.</summary>
    public DateTimeOffset? BarredAt { get; set; }
}

/// <summary>A reading as it came in.</summary>
public sealed class FactRow
{
    /// <summary>Key of the row.</summary>
    public long Id { get; init; }

    /// <summary>The machine.</summary>
    public required int MachineId { get; init; }

    /// <summary>The fact key.</summary>
    public required string Key { get; init; }

    /// <summary>The value as JSON.</summary>
    public required string Value { get; init; }

    /// <summary>What it was read from.</summary>
    public required string Source { get; init; }

    /// <summary>How it came in, by name.</summary>
    public required string Origin { get; init; }

    /// <summary>When it was measured.</summary>
    public required DateTimeOffset TakenAt { get; init; }

    /// <summary>When it came in.</summary>
    public required DateTimeOffset ReceivedAt { get; init; }

    /// <summary>Who entered it.</summary>
    public string? By { get; init; }

    /// <summary>Place in the order of receipt of its machine.</summary>
    public required long Receipt { get; init; }
}

/// <summary>A probe bundle, or a single file, that came in.</summary>
public sealed class BundleRow
{
    /// <summary>Key of the row.</summary>
    public int Id { get; init; }

    /// <summary>The machine.</summary>
    public required int MachineId { get; init; }

    /// <summary>The name it came under.</summary>
    public required string Name { get; init; }

    /// <summary>SHA-256 of its bytes, hexadecimal; the name of its file in the data folder.</summary>
    public required string Sha256 { get; init; }

    /// <summary>Its size in bytes.</summary>
    public required long SizeBytes { get; init; }

    /// <summary>When it came in.</summary>
    public required DateTimeOffset ReceivedAt { get; init; }

    /// <summary>What its readers left out and why, as JSON.</summary>
    public required string Warnings { get; init; }
}

/// <summary>A run, with the snapshot it began from.</summary>
public sealed class RunRow
{
    /// <summary>Its id.</summary>
    public required string Id { get; init; }

    /// <summary>The machine.</summary>
    public required int MachineId { get; init; }

    /// <summary>The route as it was chosen, as JSON.</summary>
    public required string Route { get; init; }

    /// <summary>The sheet, as JSON.</summary>
    public required string Steps { get; init; }

    /// <summary>The readings when it began, as JSON.</summary>
    public required string Dossier { get; init; }

    /// <summary>The next place in the order of receipt when it began: what comes later is new.</summary>
    public required long ReceiptAtStart { get; init; }

    /// <summary>Hash of the catalogue when it began.</summary>
    public required string CatalogueHash { get; init; }

    /// <summary>Why it began although the release rung was open; null where it was not.</summary>
    public string? Override { get; init; }

    /// <summary>Who began it.</summary>
    public required string By { get; init; }

    /// <summary>When it began.</summary>
    public required DateTimeOffset StartedAt { get; init; }

    /// <summary>How many events there are; also the concurrency token, and how a removed last row shows.</summary>
    public int Events { get; set; }
}

/// <summary>An event of a run.</summary>
public sealed class RunEventRow
{
    /// <summary>Key of the row.</summary>
    public long Id { get; init; }

    /// <summary>The run.</summary>
    public required string RunId { get; init; }

    /// <summary>Its place in the chain, 1 for the first.</summary>
    public required int Seq { get; init; }

    /// <summary>The teller's id.</summary>
    public required string EventId { get; init; }

    /// <summary>What happened.</summary>
    public required string Kind { get; init; }

    /// <summary>The step.</summary>
    public required string StepId { get; init; }

    /// <summary>Who.</summary>
    public required string By { get; init; }

    /// <summary>What goes with it, as JSON.</summary>
    public required string Data { get; init; }

    /// <summary>When the server heard of it.</summary>
    public required DateTimeOffset At { get; init; }

    /// <summary>Hash of the chain up to here.</summary>
    public required string Hash { get; init; }
}

/// <summary>An order.</summary>
public sealed class OrderRow
{
    /// <summary>Its id.</summary>
    public required string Id { get; init; }

    /// <summary>Goes up with every change.</summary>
    public int Version { get; set; }

    /// <summary>The order as JSON.</summary>
    public required string Order { get; set; }
}

/// <summary>A change of the shop to an entry of the catalogue. Rows are only added.</summary>
public sealed class EntryVersionRow
{
    /// <summary>Key of the row, in the order of the changes.</summary>
    public long Id { get; init; }

    /// <summary>The list it stands in.</summary>
    public required string Kind { get; init; }

    /// <summary>Id of the entry.</summary>
    public required string EntryId { get; init; }

    /// <summary>1 for the first change.</summary>
    public required int Version { get; init; }

    /// <summary>The entry as JSON; null where it was taken out.</summary>
    public string? Entry { get; init; }

    /// <summary>Who changed it.</summary>
    public required string By { get; init; }

    /// <summary>Why.</summary>
    public required string Reason { get; init; }

    /// <summary>When.</summary>
    public required DateTimeOffset At { get; init; }
}
