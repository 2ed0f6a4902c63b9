using System.Text.Json;
using FreshBoot.Data.BootKits;
using FreshBoot.Data.Catalogue;
using FreshBoot.Data.Diagnosis;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Firmware;
using FreshBoot.Data.Identity;
using FreshBoot.Data.Images;
using FreshBoot.Data.Intake;
using FreshBoot.Data.Jobs;
using FreshBoot.Data.Media;
using FreshBoot.Data.Orders;
using FreshBoot.Data.Parts;
using FreshBoot.Data.Patching;
using FreshBoot.Data.Runs;
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

    /// <summary>Images of firmware chips; their bytes lie in the data folder under their SHA-256.</summary>
    public DbSet<RomRow> Roms => Set<RomRow>();

    /// <summary>Identities that the shop gave; rows are only added.</summary>
    public DbSet<IdentityRow> Identities => Set<IdentityRow>();

    /// <summary>How long steps took; rows are only added.</summary>
    public DbSet<StepTimeRow> StepTimes => Set<StepTimeRow>();

    /// <summary>Searches for why a machine stopped.</summary>
    public DbSet<DiagnosisRow> Diagnoses => Set<DiagnosisRow>();

    /// <summary>Boot kits; rows are only added.</summary>
    public DbSet<KitRow> Kits => Set<KitRow>();

    /// <summary>Firmware chips.</summary>
    public DbSet<ChipRow> Chips => Set<ChipRow>();

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
        modelBuilder.Entity<RomRow>(rom =>
        {
            rom.ToTable("roms");
            rom.HasIndex(r => r.Sha256).IsUnique();
        });
        modelBuilder.Entity<IdentityRow>(identity =>
        {
            identity.ToTable("identities");
            identity.HasIndex(i => i.Tag);
            identity.HasIndex(i => i.Serial).IsUnique();
            identity.Property(i => i.Tag).UseCollation("NOCASE");
            identity.Ignore(i => i.Given);
        });
        modelBuilder.Entity<StepTimeRow>(time =>
        {
            time.ToTable("step_times");
            time.HasIndex(t => t.RunId);
        });
        modelBuilder.Entity<DiagnosisRow>(search =>
        {
            search.ToTable("diagnoses");
            search.HasIndex(d => d.Tag);
            search.HasIndex(d => new { d.RunId, d.StepId });
            search.Property(d => d.Tag).UseCollation("NOCASE");
            search.Property(d => d.Rung).HasConversion<CamelCase<Rung>>();
            search.Property(d => d.Version).IsConcurrencyToken();
            search.Ignore(d => d.Seen);
        });
        modelBuilder.Entity<KitRow>(kit =>
        {
            kit.ToTable("kits");
            kit.HasIndex(k => new { k.Tag, k.System });
            kit.Property(k => k.Tag).UseCollation("NOCASE");
        });
        modelBuilder.Entity<ChipRow>(chip =>
        {
            chip.ToTable("chips");
            chip.HasIndex(c => c.Tag).IsUnique();
            chip.Property(c => c.Version).IsConcurrencyToken();
            chip.Ignore(c => c.Log);
            chip.Ignore(c => c.State);
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
            order.HasIndex(o => o.Name).IsUnique();
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
            job.Property(j => j.Kind).HasConversion<CamelCase<JobKind>>();
            job.Property(j => j.State).HasConversion<CamelCase<JobState>>();
            job.HasIndex(j => j.ImageId);
        });
    }

    private static void MapRuns(ModelBuilder modelBuilder)
    {
        modelBuilder.Entity<RunRow>(run =>
        {
            run.ToTable("runs");
            run.HasIndex(r => r.MachineId);
            run.HasIndex(r => r.Number).IsUnique();
            run.Ignore(r => r.SealNow);
            run.HasOne<MachineRow>().WithMany().HasForeignKey(r => r.MachineId).OnDelete(DeleteBehavior.Restrict);
            run.Property(r => r.Events).IsConcurrencyToken();
        });
        modelBuilder.Entity<RunEventRow>(e =>
        {
            e.ToTable("run_events");
            // One place in the chain and one event of a name: whoever is second is refused by the database itself.
            e.HasIndex(r => new { r.RunId, r.Seq }).IsUnique();
            e.HasIndex(r => new { r.RunId, r.EventId }).IsUnique();
            // What was tried at a step is asked over all runs.
            e.HasIndex(r => new { r.StepId, r.Kind });
            e.HasOne<RunRow>().WithMany().HasForeignKey(r => r.RunId).OnDelete(DeleteBehavior.Restrict);
        });
    }

    /// <summary>Names of values in camel case, as the API writes them too.</summary>
    private sealed class CamelCase<T>()
        : ValueConverter<T, string>(
            v => JsonNamingPolicy.CamelCase.ConvertName(v.ToString()),
            text => Enum.Parse<T>(text, true)
        )
        where T : struct, Enum;

    private sealed class UtcMilliseconds()
        : ValueConverter<DateTimeOffset, long>(
            t => t.ToUnixTimeMilliseconds(),
            ms => DateTimeOffset.FromUnixTimeMilliseconds(ms)
        );
}
