using System.Text;
using System.Xml;
using FreshBoot.Core.BootKits;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Identity;
using FreshBoot.Core.Rehearsal;
using FreshBoot.Core.Routes;
using FreshBoot.Data;
using FreshBoot.Data.BootKits;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Identity;
using FreshBoot.Data.Jobs;
using FreshBoot.Formats;
using FreshBoot.Formats.Texts;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Jobs;
using FreshBoot.Server.Rehearsal;
using FreshBoot.Workshop.BootKits;
using FreshBoot.Workshop.Emulation;

namespace FreshBoot.Server.BootKits;

/// <summary>A component of a kit as its page shows it.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">Its name.</param>
/// <param name="Part">What it is.</param>
/// <param name="Version">Its version.</param>
/// <param name="File">Its file.</param>
/// <param name="Why">Why it is in the kit.</param>
internal sealed record KitComponentSheet(string Id, string Name, KitPart Part, string Version, string File, string Why);

/// <summary>A kit as it would be built, or why none can be.</summary>
/// <param name="Components">Its components in the order in which they load; null where none can be built.</param>
/// <param name="WhyNone">Why none can be built.</param>
/// <param name="Build">The build that it is for.</param>
/// <param name="Table">The set of power tables.</param>
/// <param name="Quirks">Quirks that this firmware needs.</param>
/// <param name="Trials">What is found by trial.</param>
/// <param name="Lacks">What will be missing.</param>
/// <param name="Profile">What somebody had running on this board.</param>
/// <param name="SteppingStone">A system that goes on first.</param>
/// <param name="Assumes">What nobody measured and is taken to be well.</param>
/// <param name="Patches">What is patched after the first start, and again after updates.</param>
/// <param name="Worth">This way beside a genuine machine of like speed; null where no route leads there, or the price book has none.</param>
/// <param name="Latest">The latest kit that was built for this machine and system; null for none.</param>
/// <param name="Stale">Whether the latest would be built otherwise now.</param>
internal sealed record KitPlanSheet(
    IReadOnlyList<KitComponentSheet>? Components,
    string? WhyNone,
    int? Build,
    PowerTableKind? Table,
    IReadOnlyList<KitQuirk> Quirks,
    IReadOnlyList<KitTrial> Trials,
    IReadOnlyList<string> Lacks,
    KitProfile? Profile,
    string? SteppingStone,
    IReadOnlyList<string> Assumes,
    IReadOnlyList<AfterPatch> Patches,
    KitWorth? Worth,
    KitSheet? Latest,
    bool Stale
);

/// <summary>A kit as the shelf shows it.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">What it is called.</param>
/// <param name="Tag">The machine that it was built for.</param>
/// <param name="System">The system that it is for.</param>
/// <param name="Sha256">SHA-256 of its archive.</param>
/// <param name="SizeBytes">Size of its archive.</param>
/// <param name="Parent">The kit that it was changed from.</param>
/// <param name="By">Who made it.</param>
/// <param name="At">When.</param>
/// <param name="Components">The components that it loads, in their order.</param>
/// <param name="Config">Its configuration.</param>
/// <param name="Findings">What is wrong with it; none for a clean one.</param>
internal sealed record KitSheet(
    int Id,
    string Name,
    string? Tag,
    string? System,
    string Sha256,
    long SizeBytes,
    int? Parent,
    string By,
    DateTimeOffset At,
    IReadOnlyList<string> Components,
    string Config,
    IReadOnlyList<KitFinding> Findings
);

/// <summary>For which system a kit is built.</summary>
internal sealed record KitIn(string System, [property: Line(60)] string By = "nobody");

/// <summary>Which findings are mended; null for all that can be.</summary>
internal sealed record KitRepairIn([property: Line(60)] string By, IReadOnlyList<int>? Findings = null);

/// <summary>Another text for a kit's configuration.</summary>
internal sealed record KitConfigIn(string Text, [property: Line(60)] string By);

/// <summary>Builds boot kits, checks and mends those that somebody hands in, and starts them in the twin.</summary>
internal sealed class BuildKit(
    KitStore kits,
    MachineStore machines,
    IdentityStore identities,
    Shop shop,
    JobRunner jobs,
    TwinOfFile twin,
    DataFolder folder,
    Changes changes
)
{
    private const int LargestConfig = 1 << 20;
    private const long RoomBytes = 220_000_000;
    private static readonly InstallerWords Says = new(KitImage.Starts, KitImage.StartsNot);

    /// <summary>The kit of a machine as it would be built now.</summary>
    public async Task<KitPlanSheet> PlanAsync(string tag, string? system, CancellationToken stop)
    {
        var standing = shop.Stand(await machines.GetAsync(tag, stop));
        var entry = SystemOf(system ?? standing.Aim.System);
        var row = await kits.OfAsync(tag, entry.Id, stop);
        var latest = row is null ? null : await SheetAsync(row, stop);
        try
        {
            var facts = standing.AtInstaller(entry.Id, stop);
            var kit = KitBuilder.Build(facts, entry, shop.Catalogue);
            var identity = await IdentityAsync(tag, entry, stop);
            return new KitPlanSheet(
                [
                    .. kit.Components.Select(c => new KitComponentSheet(
                        c.Component.Id,
                        c.Component.Name,
                        c.Component.Part,
                        c.Component.Version,
                        c.Component.File,
                        c.Why
                    )),
                ],
                null,
                kit.Build,
                kit.Table,
                kit.Quirks,
                kit.Trials,
                kit.Lacks,
                kit.Profile,
                kit.SteppingStone is { } stone ? $"{stone.FullName}: {entry.Kit!.SteppingWhy}" : null,
                kit.Assumes,
                shop.Catalogue.PatchesAfter(facts, entry.Id),
                standing.RoutesNow(stop).FirstOrDefault(r => r.System == entry.Id && r.School == School.Spoof)
                    is { } route
                    ? KitWorth.Of(route, standing.Dossier, entry, shop.Catalogue)
                    : null,
                latest,
                row is not null && row.From != KitFrom.Of(kit, identity)
            );
        }
        catch (RefusedException e)
        {
            return new KitPlanSheet(
                null,
                $"{e.Message} {e.Refusal.Wanted}",
                null,
                null,
                [],
                [],
                [],
                null,
                null,
                [],
                [],
                null,
                latest,
                row is not null
            );
        }
    }

    /// <summary>Builds the kit of a machine and keeps it.</summary>
    /// <exception cref="RefusedException">None can be built.</exception>
    public async Task<KitSheet> DoAsync(string tag, KitIn wish, CancellationToken stop)
    {
        var by = Given.Text(wish.By, "by", 60);
        var entry = SystemOf(wish.System);
        var facts = shop.Stand(await machines.GetAsync(tag, stop)).AtInstaller(entry.Id, stop);
        var kit = KitBuilder.Build(facts, entry, shop.Catalogue);
        var identity = await IdentityAsync(tag, entry, stop);
        var archive = KitFiles.Pack(KitFiles.Of(kit, facts, identity?.Profile));
        var row = await kits.AddAsync(
            archive,
            k => new KitRow
            {
                Name = $"{tag}, {entry.FullName}",
                Tag = tag,
                System = entry.Id,
                Sha256 = k.Sha256,
                SizeBytes = archive.Length,
                From = KitFrom.Of(kit, identity),
                By = by,
                At = k.At,
            },
            stop
        );
        changes.Tell("machine", tag);
        return await SheetAsync(row, stop);
    }

    /// <summary>Takes a kit in that somebody made elsewhere.</summary>
    /// <exception cref="RefusedException">It is no archive, too large, or leads out of itself.</exception>
    public Task<KitSheet> TakeAsync(Stream stream, string name, string by, CancellationToken stop) =>
        KeepAsync(KitFiles.Unpack(stream), name, null, by, stop);

    /// <summary>Carries certain repairs out; what comes of it is a kit of its own.</summary>
    public async Task<KitSheet> RepairAsync(int id, KitRepairIn wish, CancellationToken stop)
    {
        var row = await kits.GetAsync(id, stop);
        return await KeepAsync(
            KitCheck.Repaired(await FilesAsync(row, stop), shop.Catalogue, wish.Findings),
            row.Name,
            row,
            wish.By,
            stop
        );
    }

    /// <summary>Puts another text in the place of the configuration; what comes of it is a kit of its own.</summary>
    public async Task<KitSheet> ConfigureAsync(int id, KitConfigIn wish, CancellationToken stop)
    {
        if (wish.Text.Length > LargestConfig)
            throw new RefusedException(RefusalKind.TooLarge, "The text is too long.", "text", "At most 1 MiB.");
        try
        {
            XmlDocuments.Read(wish.Text);
        }
        catch (FormatRefusedException e)
        {
            throw new RefusedException(RefusalKind.Unreadable, e.Message, e.Where, e.Wanted);
        }
        var row = await kits.GetAsync(id, stop);
        var files = await FilesAsync(row, stop);
        files[KitFiles.Config] = Encoding.UTF8.GetBytes(wish.Text);
        KitFiles.Sign(files);
        return await KeepAsync(files, row.Name, row, wish.By, stop);
    }

    /// <summary>A kit as the shelf shows it.</summary>
    public async Task<KitSheet> SheetAsync(KitRow row, CancellationToken stop)
    {
        var files = await FilesAsync(row, stop);
        var config = files.TryGetValue(KitFiles.Config, out var bytes) ? Encoding.UTF8.GetString(bytes) : "";
        return new KitSheet(
            row.Id,
            row.Name,
            row.Tag,
            row.System,
            row.Sha256,
            row.SizeBytes,
            row.Parent,
            row.By,
            row.At,
            Order(config),
            config,
            KitCheck.Of(files, shop.Catalogue)
        );
    }

    /// <summary>Writes a kit into a FAT image and starts it in the twin of its machine.</summary>
    /// <exception cref="RefusedException">A program is missing, or it is the kit of no machine.</exception>
    public async Task<JobSheet> StartAsync(int id, string by, CancellationToken stop)
    {
        var row = await kits.GetAsync(id, stop);
        var files = await FilesAsync(row, stop);
        var facts = row.Tag is { } tag ? shop.Dossier(await machines.GetAsync(tag, stop)) : Dossier.Empty;
        var setUp = TwinMachine.Of(facts, "uefi64", null);
        twin.Check(setUp, KitImage.Missing(), RoomBytes);
        var order = Order(Encoding.UTF8.GetString(files.GetValueOrDefault(KitFiles.Config) ?? []));
        return await jobs.BeginAsync(
            new JobWish(JobKind.Twin, $"Start the kit {row.Name} in the twin", Given.Text(by, "by", 60), row.Tag),
            async (working, running) =>
            {
                working.Progress(0.05, "The kit is written into a FAT image.");
                var image = kits.ImageOf(row);
                await KitImage.MakeAsync(image, files, order, folder.Work, running);
                return await twin.StartAsync(
                    working,
                    image,
                    TwinForm.Stick,
                    setUp,
                    Says,
                    "It starts: every file of its list was found, in its order.",
                    running
                );
            },
            stop: CancellationToken.None
        );
    }

    /// <summary>The identity that a kit for a system carries: the latest whose donor the system supports.</summary>
    private async Task<GivenIdentity?> IdentityAsync(string tag, SystemEntry system, CancellationToken stop) =>
        GivenIdentity.For(await identities.OfAsync(tag, stop), system.Id, shop.Catalogue);

    /// <summary>The files of a kit.</summary>
    public async Task<SortedDictionary<string, byte[]>> FilesAsync(KitRow row, CancellationToken stop)
    {
        using var stream = new MemoryStream(await File.ReadAllBytesAsync(kits.PathOf(row), stop));
        return KitFiles.Unpack(stream);
    }

    private async Task<KitSheet> KeepAsync(
        SortedDictionary<string, byte[]> files,
        string name,
        KitRow? parent,
        string by,
        CancellationToken stop
    )
    {
        var archive = KitFiles.Pack(files);
        var who = Given.Text(by, "by", 60);
        var row = await kits.AddAsync(
            archive,
            k => new KitRow
            {
                Name = name,
                Tag = parent?.Tag,
                System = parent?.System,
                Sha256 = k.Sha256,
                SizeBytes = archive.Length,
                From = parent?.From,
                Parent = parent?.Id,
                By = who,
                At = k.At,
            },
            stop
        );
        changes.Tell(row.Tag is null ? "all" : "machine", row.Tag ?? "");
        return await SheetAsync(row, stop);
    }

    private static List<string> Order(string config)
    {
        try
        {
            return
                PropertyList.Root(XmlDocuments.Read(config)) is { } root
                && PropertyList.Inside(root, "load") is { Name: "array" } load
                ?
                [
                    .. load
                        .ChildNodes.OfType<XmlElement>()
                        .Where(e => e.Name == "dict")
                        .Select(e => PropertyList.Inside(e, "file")?.InnerText)
                        .OfType<string>(),
                ]
                : [];
        }
        catch (FormatRefusedException)
        {
            return [];
        }
    }

    private SystemEntry SystemOf(string id) =>
        shop.Catalogue.System(id)
        ?? throw new RefusedException(
            RefusalKind.Invalid,
            $"There is no system “{id}”.",
            "system",
            "A system of the catalogue."
        );
}
