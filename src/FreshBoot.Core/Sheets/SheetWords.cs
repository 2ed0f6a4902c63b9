using System.Globalization;
using System.Text;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Firmware;
using FreshBoot.Core.Layouts;
using FreshBoot.Core.Media;
using FreshBoot.Core.Orders;
using FreshBoot.Core.Preparation;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Routes;

namespace FreshBoot.Core.Sheets;

/// <summary>Fills the placeholders of procedures in for one machine, so that a step names the very thing that a hand holds.</summary>
/// <param name="question">What the sheet is for.</param>
/// <param name="cure">The cure that the fragment carries out; null for a fragment of its own.</param>
/// <param name="general">Whether the fragment was written for every cure of a kind, and so knows nothing of this one's danger.</param>
/// <param name="fact">The fact that the fragment measures; null for one that measures none that is taken for granted.</param>
internal sealed class SheetWords(SheetQuestion question, Cure? cure, bool general, string? fact = null)
{
    /// <summary>The fact that the fragment measures.</summary>
    public string? Fact => fact;

    /// <summary>The cure that the fragment carries out.</summary>
    public Cure? Cure => cure;

    private const int ShownOfHash = 12;
    private const int ShownOfSerial = 4;

    private IFacts Facts => question.Facts;

    private BoardEntry? Board => question.Catalogue.Flashed(question.Route.Cures);

    /// <summary>A text with its placeholders filled in.</summary>
    /// <param name="text">The text.</param>
    /// <param name="minutes">The times of its step.</param>
    /// <param name="at">The machine as it is when the step comes: its firmware may be another one by then.</param>
    public string Fill(string text, StepTimes minutes, IFacts at)
    {
        if (!text.Contains('{', StringComparison.Ordinal))
            return text;
        var filled = new StringBuilder(text);
        foreach (var name in Placeholders.In(text).Distinct(StringComparer.Ordinal))
            filled.Replace($"{{{name}}}", Value(name, minutes, at));
        // What had nothing to say leaves no gap.
        filled.Replace("  ", " ");
        if (filled[^1] == ' ')
            filled.Length--;
        // A sentence that begins with what is filled in begins with a capital all the same.
        if (text[0] == '{')
            filled[0] = char.ToUpperInvariant(filled[0]);
        return filled.ToString();
    }

    /// <summary>
    /// The caution of a step. Where a fragment knows only the kind of a cure, the cure's own stands at the step that carries it out,
    /// and there alone.
    /// </summary>
    public string? Caution(StepEntry step, StepTimes minutes, IFacts at)
    {
        var own = step.Caution is { } caution ? Fill(caution, minutes, at) : null;
        return general && cure?.Caution is { } more && step.Text.Contains("{cure}", StringComparison.Ordinal)
            ? $"{own} {more}".Trim()
            : own;
    }

    private string Value(string name, StepTimes minutes, IFacts at) =>
        name switch
        {
            "tag" => question.Tag,
            "model" => MachineName.Of(Facts) is { Length: > 0 } named
                ? named
                : "the machine that the dossier describes",
            "board" => Board?.Id ?? Facts.Word("identity.board") ?? "the board of the dossier",
            "bootMenu" => Menus(at).BootMenu,
            "setup" => Menus(at).Setup ?? Menus(at).WhyNone!,
            "entry" => question.Way switch
            {
                "uefi" => "the entry that begins with “UEFI”",
                "bios" => "the entry without “UEFI”",
                _ => "the entry that names it; where there are two, the one with “UEFI” first",
            },
            "port" => Facts.Word("plan.port") == "fast" ? "a fast port" : "a slow port at the back or the side",
            "tpmLabel" => Label(FirmwareSwitches.Tpm, at),
            "setupFromSystem" => Menus(at).SetupFromSystem is { } way
                ? $"{way}; or shut it down with the shift key held, and try once more, tapping earlier."
                : "Let it start, shut it down with the shift key held, and try once more, tapping earlier.",
            "drive" => NewDrive(),
            "oldDrive" => Drive(0),
            "otherDrives" => question.Drives.Count < 2
                ? "no other"
                : Numbers.Join(question.Drives.Skip(1).Select(Drive), "and"),
            "driveSlot" => DriveSlot(),
            "cleanFirst" => CleanUp.All(Facts) is { Count: > 0 } items
                ? CleanUp.InWords(items)
                : "the bin, the download folder’s installers and the cache",
            "boardNotes" => string.Join(' ', Model?.Notes.Select(n => n.Text) ?? []),
            "boardSupply" => Small is { } small
                ? $"{small.SupplyMilliamps} mA at 5 V ({small.LargeSupplyMilliamps} mA with a drive at its ports or a raised clock)"
                : "as much as its maker asks for",
            "boardPort" => Small?.Ports.FirstOrDefault(p => p.FirstStage)?.Name
                ?? "the port that its first stage starts from",
            "boardStorage" => string.Join(' ', Small?.Storage ?? []),
            "boardCap" => Small?.CapMenu ?? "",
            "boardFault" => Small?.Fault?.Sees ?? "",
            "boardFaultLines" => Small?.Fault is { } known
                ? $"Type, line by line: {string.Join(" · ", known.Commands)}. {known.Then}"
                : "",
            "boardDrivers" => Small?.Drivers ?? "",
            "boardBuild" => Small?.Builds.FirstOrDefault(b => b.System == question.System?.Id) is { } proved
                ? proved.Build > 0
                    ? $"build {proved.Build}"
                    : "any build"
                : "no build that anybody has tried",
            "afterPatches" => question.System is { } patched
            && question.Catalogue.PatchesAfter(Facts, patched.Id) is { Count: > 0 } patches
                ? string.Join(
                    "; ",
                    patches.Select(p =>
                        string.Create(
                            CultureInfo.InvariantCulture,
                            $"{char.ToLowerInvariant(p.Does[0])}{p.Does[1..]} ({p.Minutes} min)"
                        )
                    )
                )
                : "what Prepare names for graphics and wireless of this board",
            "kitTrials" => string.Join(
                "; ",
                question.Kit?.Trials.Select(t => $"{t.Key} in the order {string.Join(", ", t.Values)}, until {t.Hint}")
                    ?? []
            ),
            "kitLacks" => string.Join(' ', question.Kit?.Lacks ?? []),
            "hardwareId" => Board?.HardwareId ?? "as the list of boards has it",
            "sign" => Board?.Sign ?? "a picture that is not the maker’s",
            "system" => question.System?.FullName ?? "the system",
            "outgoing" => Facts.Word("os.name") ?? "the system that is on it",
            "image" => question.Item(WorkItemKind.Image)?.Title ?? $"the image of {question.System?.FullName}",
            "imageSize" => question.Item(WorkItemKind.Medium)?.Bytes is > 0 and var bytes
                ? Quantity.Drive(bytes)
                : "its whole size",
            "writeMinutes" => Writes.Usual.ToString(CultureInfo.InvariantCulture),
            "writeWorry" => Writes.Worry.ToString(CultureInfo.InvariantCulture),
            "build" => question.Build ?? "of this image",
            "defect" => string.Join(' ', question.Defects.Select(d => d.Sees)),
            "workaround" => string.Join(' ', question.Defects.Select(d => d.Workaround)),
            "imageHash" => question.Item(WorkItemKind.Image)?.From.FirstOrDefault(f => f.What == "image")?.Value
                is { Length: >= ShownOfHash } hash
                ? hash[..ShownOfHash]
                : "as Prepare shows it",
            "medium" => question.Item(WorkItemKind.Medium) is { State: not WorkItemState.Missing } medium ? medium.Title
            : question.RouteFacts.Word("route.medium") == "disc" ? "the installer disc"
            : "the installer stick",
            "recipes" => question
                .Items.Where(i => i is { Needed: true, Kind: WorkItemKind.Recipe })
                .Select(i => i.Title)
                .ToArray()
                is { Length: > 0 } recipes
                ? Numbers.Join(recipes, "and")
                : "nothing",
            "edition" => question.Edition ?? "the one that the licence is for",
            "keeps" => question.Route.InPlace?.Keeps is { Count: > 0 } keeps ? Numbers.Join(keeps, "and") : "files",
            "freeBytes" => question.System is { InPlaceFreeBytes: > 0 } s
                ? Quantity.Drive(s.InPlaceFreeBytes)
                : "20 GB",
            "account" => Facts.Word("plan.account") == "maker"
                ? "the owner's own account with the maker"
                : "a local account",
            "scheme" => question.Layout?.Scheme switch
            {
                PartitionScheme.Gpt => "GPT",
                PartitionScheme.Mbr => "MBR",
                _ => question.Way == "bios" ? "MBR" : "GPT",
            },
            "layout" => question.Layout is { } plan
                ? MachineLayout.InWords(plan) + MachineLayout.WhyFirst(plan)
                : "system, swap as large as the memory, home",
            "swap" => Facts.Number("memory.installedMiB") is { } mib
                ? FactText.Show("memory.installedMiB", FactValue.Of(mib))
                : "as large as the memory",
            "fact" => $"“{FactRegistry.Label(fact ?? "")}”",
            "measure" => FactRegistry.Find(fact ?? "")?.HowToMeasure ?? "",
            "cure" => cure?.Does ?? "",
            "how" => cure?.How ?? "",
            "protectionOff" => BoardRules.Off(Board?.Protection ?? WriteProtection.Battery),
            "protectionOn" => BoardRules.On(Board?.Protection ?? WriteProtection.Battery),
            "openCase" => Facts.Word("identity.chassis") switch
            {
                "desktop" or "tower" or "mini" or "server" =>
                    "Lay it on its side, take the screws out or open the latch at the back, and slide the cover off.",
                "all-in-one" => "Lay it on its screen on a soft cloth, and take the cover at the back off.",
                "board" => "Open the casing of the board by its clips.",
                _ =>
                    "Lay it on a soft cloth, take the screws of the lower shell out row by row, and lift it from the hinge side.",
            },
            "closeCase" => HasAdapter
                ? "Close the shell, put the screws back in the rows that they came from"
                : "Put the cover back and fasten it",
            "power" => HasAdapter ? "the adapter" : "the power cord",
            "payload" => Board?.Payload ?? "the replacement firmware",
            "order" => question.Order?.Name
                ?? (question.RouteFacts.Word("route.owner") == "same" ? "the owner" : "the new owner"),
            "onMains" => HasAdapter ? "the adapter stays in, the lid open" : "the power cord stays in",
            "programs" => Programs(),
            "unsureDevices" => Numbers.Join(question.Devices.Unsure, "or"),
            "supportEnds" => question.System?.EndsFor(
                Facts,
                question.Route.Cures.Any(c => c.Extends == question.System.Id)
            )
                is { } day
                ? day.ToString("d MMMM yyyy", CultureInfo.InvariantCulture)
                : "no end that anybody named",
            "usual" => minutes.Usual.ToString(CultureInfo.InvariantCulture),
            "worry" => (minutes.Worry > 0 ? minutes.Worry : 2 * minutes.Usual).ToString(CultureInfo.InvariantCulture),
            _ => throw new ArgumentOutOfRangeException(nameof(name), name, "the reader of packs lets none such in"),
        };

    /// <summary>Whether it is one that is carried about; of a form that nobody noted that is the one that wants more care.</summary>
    private bool HasAdapter =>
        !question.IsBoard
        && Facts.Word("identity.chassis")
            is not ("desktop" or "tower" or "mini" or "server" or "all-in-one" or "board");

    private WriteTimes Writes =>
        question.Item(WorkItemKind.Medium)?.Writes ?? WriteTimes.Of(question.System?.ImageBytes ?? 0, null);

    private FirmwareMenus Menus(IFacts at) => question.Catalogue.Menus(at);

    private string Label(string key, IFacts at) => MachineSwitches.Called(key, MachineSwitches.Labels(at, Menus(at)));

    /// <summary>The drive that the route leaves in the machine: a new one, or the one that is there.</summary>
    private string NewDrive() =>
        question
            .Route.Cures.Select(c => c.Sets?.GetValueOrDefault("storage.0.sizeBytes"))
            .FirstOrDefault(v => v is not null)
            is { } size
            ? $"the new {FactText.Show("storage.0.sizeBytes", size)} drive"
            : Drive(0);

    /// <summary>Where the new drive goes in, and what drives of its bus ask of a hand.</summary>
    private string DriveSlot()
    {
        var bus = Facts.Word("storage.0.bus");
        var slot = Model?.Slots.FirstOrDefault(s => bus is not null && s.Buses.Contains(bus));
        return string.Join(
            ' ',
            new[]
            {
                slot is null ? null : $"Its place is {DriveSlots.InWords(slot)}.",
                slot?.Shares is { } shares ? $"{shares}." : null,
                slot?.Note,
                bus switch
                {
                    // ANSI X3.298 (ATA-3), 4.2; SCSI-3 SPI, section 6: what hangs on one cable has to agree on who is who.
                    "ata" =>
                        "Set its jumper as the old one’s stands, “master” where it hangs alone: two masters on one cable start nothing.",
                    "scsi" =>
                        "Give it a number that no other has, and see that both ends of the cable, and no place between, have a terminator.",
                    _ => null,
                },
            }.OfType<string>()
        );
    }

    private SmallBoard? Small => question.Catalogue.SmallBoard(Facts);

    private ModelEntry? Model => question.Catalogue.Model(Facts);

    private string Drive(int i)
    {
        if (Facts.Number($"storage.{i}.sizeBytes") is not { } bytes)
            return "the internal drive";
        var more = new[]
        {
            Facts.Word($"storage.{i}.model"),
            Facts.Word($"storage.{i}.serial") is { Length: > 0 } serial
                ? $"serial …{serial[^Math.Min(ShownOfSerial, serial.Length)..]}"
                : null,
        }.OfType<string>();
        var said = string.Join(", ", more);
        return $"the {Quantity.Drive(bytes)} drive{(said.Length > 0 ? $" ({said})" : "")}";
    }

    private string Programs()
    {
        var wanted =
            question.Order?.Needs.Where(n => n.Kind == NeedKind.Program).Select(n => n.Purpose).ToHashSet() ?? [];
        var names = question
            .Catalogue.Programs.Where(p =>
                wanted.Contains(p.Purpose)
                && (p.Systems.Count == 0 || p.Systems.Contains(question.System?.Id ?? ""))
                && p.Needs.Holds(question.Facts) != false
            )
            .GroupBy(p => p.Purpose)
            .Select(g => g.First().Name)
            .ToArray();
        return names.Length > 0 ? Numbers.Join(names, "and") : "what the person uses every day";
    }
}
