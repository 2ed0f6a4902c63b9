using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Images;
using FreshBoot.Core.Preparation;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Routes;

namespace FreshBoot.Core.Runs;

/// <summary>Makes the sheet of a route: every step in the order of the work, with its values filled in.</summary>
public static class RunSheet
{
    private const string UsbStart = "start from a stick is allowed";

    /// <summary>The steps of a route on a machine.</summary>
    /// <param name="route">The route chosen.</param>
    /// <param name="system">Its system; null where the machine is retired.</param>
    /// <param name="facts">The dossier at the start.</param>
    /// <param name="catalogue">For boards and the keys of makers.</param>
    /// <param name="items">The work items of the route; steps name those that they use.</param>
    public static IReadOnlyList<Step> Make(
        Route route,
        SystemEntry? system,
        IFacts facts,
        ShopCatalogue catalogue,
        IReadOnlyList<WorkItem> items
    ) =>
        system is null ? Retire()
        : route.School == School.Stay ? Prove(system)
        : Install(route, system, facts, catalogue, items);

    private static List<Step> Install(
        Route route,
        SystemEntry system,
        IFacts facts,
        ShopCatalogue catalogue,
        IReadOnlyList<WorkItem> items
    )
    {
        var over = facts.Word("plan.install") == "inPlace";
        var steps = new List<Step>
        {
            over
                ? new(
                    "data",
                    Rung.Release,
                    StepKind.Check,
                    "Open the backup once and look into it. Files stay, and an upgrade can still fail.",
                    null,
                    5
                )
                : new(
                    "data",
                    Rung.Release,
                    StepKind.Check,
                    "Check once more that nothing on the drive is wanted.",
                    "What comes next erases it.",
                    2
                ),
        };
        var drive = facts.Number("storage.0.sizeBytes") is { } bytes
            ? $"the {Quantity.Drive(bytes)} drive"
            : "the internal drive";
        if (route.Cures.FirstOrDefault(c => c.Sets?.GetValueOrDefault("storage.0.sizeBytes") is not null) is { } fitted)
            drive = $"the new {FactText.Show("storage.0.sizeBytes", fitted.Sets!["storage.0.sizeBytes"])} drive";

        foreach (var cure in route.Cures.Where(c => c.Kind == Outcome.Part))
            steps.Add(Plain(cure, StepKind.Do));
        var settings = route.Cures.Where(c => c.Kind == Outcome.Setting).ToArray();
        steps.Add(
            new(
                "settings-noted",
                Rung.Firmware,
                StepKind.Check,
                "Write down every firmware setting before you change one.",
                settings.Length > 0
                    ? "See the recovery key and suspend drive encryption before anything touches the TPM."
                    : null,
                4
            )
        );
        foreach (var cure in settings)
            steps.Add(Plain(cure, StepKind.Do));
        foreach (var cure in route.Cures.Where(c => c.Kind == Outcome.Reflash))
            if (catalogue.Boards.FirstOrDefault(b => b.Cure.Id == cure.Id) is { } board)
                steps.AddRange(
                    facts.Word("plan.firmware") == "keep"
                        ? FirmwareSteps.LegacySteps(board)
                        : FirmwareSteps.Steps(board)
                );
        steps.Add(
            new("usb-start", Rung.Firmware, StepKind.Do, "Allow a start from a stick.", null, 2, Opens: UsbStart)
        );

        steps.Add(
            new Step(
                "medium-taken",
                Rung.Medium,
                StepKind.Check,
                "Take the medium that Prepare names, by the label on it. It holds the image of this plan, read back and found right.",
                null,
                2
            )
            {
                Uses = Uses(items, WorkItemKind.Image, WorkItemKind.Medium),
            }
        );
        foreach (var cure in route.Cures.Where(c => c.Kind == Outcome.Patch))
            steps.Add(
                new Step(
                    cure.Id,
                    Rung.Setup,
                    StepKind.Check,
                    $"{cure.Does}: it is on the medium already. Read once more under Prepare what was changed.",
                    cure.Caution,
                    2
                )
                {
                    Uses = Uses(items, WorkItemKind.Recipe, WorkItemKind.Answers),
                }
            );
        foreach (var cure in route.Cures.Where(c => c.Kind == Outcome.Spoof))
            steps.Add(
                new Step(
                    cure.Id,
                    Rung.Setup,
                    StepKind.Type,
                    $"{cure.Does}: put the prepared identity into the loader's configuration.",
                    cure.Caution,
                    cure.HandsOnMinutes,
                    Command: "cp identity.json /media/stick/loader/identity.json",
                    Expect: "nothing; it is done when the prompt is back"
                )
                {
                    Uses = Uses(items, WorkItemKind.Identity),
                }
            );
        var legacy = FirmwareWays.Of(facts).Now == "bios";
        steps.Add(
            new Step(
                "boot",
                Rung.Setup,
                StepKind.Do,
                $"{catalogue.Maker(facts.Word("identity.maker"))?.BootMenu ?? "Open the boot menu"}. Start from the stick: it may be listed twice, take the {(legacy ? "legacy" : "UEFI")} entry.{Said(facts, "plan.port")}",
                null,
                3
            )
            {
                Uses = [.. items.Where(i => i.Needed).Select(i => i.Id)],
            }
        );
        steps.AddRange(Chosen(facts, "plan.live"));
        steps.AddRange(Chosen(facts, "plan.updates"));
        if (over)
            steps.Add(
                new(
                    "keep",
                    Rung.Disk,
                    StepKind.Check,
                    "Choose “keep files and programs”. Where it is greyed out stop: language or edition differ.",
                    "Mains power on; do not interrupt it.",
                    3
                )
            );
        else if (facts.Word("plan.disk") == "byHand")
            steps.Add(
                new(
                    "erase",
                    Rung.Disk,
                    StepKind.Confirm,
                    $"Divide {drive} by hand: system, swap as large as the memory, a home of its own. Leave what has to stay.{Said(facts, "plan.scheme")}",
                    $"What is deleted on {drive} is lost. Compare sizes first.",
                    12
                )
            );
        else
            steps.Add(
                new(
                    "erase",
                    Rung.Disk,
                    StepKind.Confirm,
                    $"Delete the partitions of {drive}, no other.{Said(facts, "plan.disk")}{Said(facts, "plan.scheme")}",
                    $"Everything on {drive} is lost.",
                    2
                )
            );
        steps.Add(
            new(
                "copying",
                Rung.Kernel,
                StepKind.Wait,
                "Wait while it copies and restarts. A black screen for two minutes is normal.",
                null,
                system.Install.UsualMinutes,
                system.Install.ShortestMinutes,
                system.Install.WorryMinutes
            )
        );
        steps.Add(new("stick-out", Rung.Kernel, StepKind.Do, "Take the stick out when it restarts.", null, 1));
        steps.AddRange(Chosen(facts, "plan.account"));
        steps.AddRange(Chosen(facts, "plan.encryption"));
        steps.AddRange(Chosen(facts, "plan.loader"));
        foreach (var cure in route.Cures.Where(c => c.Kind == Outcome.Driver))
            steps.Add(Plain(cure, StepKind.Do));
        steps.Add(
            new(
                "devices",
                Rung.Devices,
                StepKind.Check,
                "Try sound, picture, keyboard, network and sleep. Nothing may be left unknown.",
                null,
                8
            )
        );
        steps.Add(new("tasks", Rung.Use, StepKind.Check, "Open two documents and a call at once.", null, 6));
        if (route.Cures.Any(c => c.Kind == Outcome.Reflash))
            steps.Add(
                new(
                    "protection-on",
                    Rung.Firmware,
                    StepKind.Do,
                    "Put the write protection back as it was.",
                    "Unplug first, discharge yourself.",
                    8,
                    Closes: "write protection of the firmware is off"
                )
            );
        steps.Add(
            new(
                "usb-closed",
                Rung.Firmware,
                StepKind.Do,
                "Forbid the start from a stick again.",
                null,
                2,
                Closes: UsbStart
            )
        );
        steps.AddRange(Chosen(facts, "plan.menu"));
        steps.AddRange(Prove(system));
        if (facts.Word("plan.loader") == "stick")
            steps.Insert(
                steps.FindIndex(s => s.Id == "probe"),
                new(
                    "loader-moved",
                    Rung.Disk,
                    StepKind.Do,
                    "Move the loader from the stick onto the internal disk and start once without the stick.",
                    null,
                    6
                )
            );
        return steps;
    }

    private static string[] Uses(IReadOnlyList<WorkItem> items, params WorkItemKind[] kinds) =>
        [.. items.Where(i => i.Needed && kinds.Contains(i.Kind)).Select(i => i.Id)];

    /// <summary>What a chosen answer adds to a step, with a space before it; empty while nobody chose.</summary>
    private static string Said(IFacts facts, string key) =>
        (key, facts.Word(key)) switch
        {
            ("plan.port", "slow") => " Use the slow port: the fewest surprises.",
            ("plan.port", "fast") => " Use the fast port; if it is not offered, take the slow one.",
            ("plan.scheme", "gpt") => " New table: GPT.",
            ("plan.scheme", "mbr") => " New table: MBR.",
            ("plan.disk", "guided") => " Then let the installer take the whole disk.",
            _ => "",
        };

    /// <summary>The step that a chosen answer adds; none while nobody chose.</summary>
    private static IEnumerable<Step> Chosen(IFacts facts, string key)
    {
        var step = (key, facts.Word(key)) switch
        {
            ("plan.live", "try") => new Step(
                "live",
                Rung.Devices,
                StepKind.Check,
                "Start the live system first: try mouse, screen, sound and network before anything is erased.",
                null,
                12
            ),
            ("plan.live", "install") => new(
                "live",
                Rung.Devices,
                StepKind.Check,
                "Go straight to the installer: sound and network are tried afterwards.",
                null,
                1
            ),
            ("plan.updates", "fetch") => new(
                "updates-while",
                Rung.Setup,
                StepKind.Do,
                "Plug the wired network in and let it fetch updates while it installs.",
                null,
                2
            ),
            ("plan.updates", "later") => new(
                "updates-while",
                Rung.Setup,
                StepKind.Do,
                "Leave the network out and refuse updates while it installs: it stays on the proved build.",
                null,
                2
            ),
            ("plan.account", "local") => new(
                "account",
                Rung.Use,
                StepKind.Do,
                "Make a local account in small letters, without a password; the owner sets one at hand-over.",
                null,
                3
            ),
            ("plan.account", "maker") => new(
                "account",
                Rung.Use,
                StepKind.Do,
                "Stop at the first start: the owner signs in with their own account and keeps the recovery key.",
                "Never an account of the shop.",
                3
            ),
            ("plan.encryption", "on") => new(
                "encryption",
                Rung.Use,
                StepKind.Do,
                facts.Word("tpm.version") is "2.0" or "1.2"
                    ? "Switch drive encryption on and hand the recovery key to the owner on paper."
                    : "Switch drive encryption on; it asks for a passphrase at every start, which the owner chooses.",
                "Without the key the data is lost for good.",
                6
            ),
            ("plan.encryption", "off") => new(
                "encryption",
                Rung.Use,
                StepKind.Do,
                "Leave drive encryption off, and say so on the sheet for the owner.",
                null,
                2
            ),
            ("plan.loader", "stick") => new(
                "loader",
                Rung.Disk,
                StepKind.Do,
                "Leave the loader on the stick until the system is proved.",
                null,
                2
            ),
            ("plan.loader", "disk") => new(
                "loader",
                Rung.Disk,
                StepKind.Do,
                "Put the loader onto the internal disk now, and keep the stick for an emergency.",
                null,
                5
            ),
            ("plan.menu", "shown") => new(
                "menu",
                Rung.Disk,
                StepKind.Do,
                "Leave the loader’s menu shown for five seconds.",
                null,
                2
            ),
            ("plan.menu", "hidden") => new(
                "menu",
                Rung.Disk,
                StepKind.Do,
                "Hide the loader’s menu; the key that brings it back stands on the sheet for the owner.",
                null,
                2
            ),
            _ => null,
        };
        return step is null ? [] : [step];
    }

    /// <summary>The last steps of every sheet that leaves a machine with a system.</summary>
    private static Step[] Prove(SystemEntry system) =>
        [
            new("updates", Rung.Upkeep, StepKind.Do, "Fetch the updates and restart three times.", null, 15),
            new(
                "named",
                Rung.Upkeep,
                StepKind.Measure,
                $"Enter the system's name as its own page shows it: {system.FullName}.",
                null,
                2,
                Wants: "os.name"
            ),
            new(
                "probe",
                Rung.Upkeep,
                StepKind.Measure,
                "Run the probe once more with the code of this step, and bring its bundle in.",
                null,
                5,
                Wants: RunRules.Probe
            ),
            new(
                "clean",
                Rung.Upkeep,
                StepKind.Check,
                "Remove every account and network password of the shop.",
                null,
                3
            ),
        ];

    private static List<Step> Retire() =>
        [
            new(
                "erase",
                Rung.Release,
                StepKind.Confirm,
                "Erase or destroy the drive as the owner wanted it.",
                "Everything on it is lost. Local rules on data protection come first.",
                10
            ),
            new(
                "battery",
                Rung.Parts,
                StepKind.Do,
                "Take the battery out and put it with the others.",
                "A swollen or pierced battery can burn: leave it to somebody who is trained.",
                10
            ),
            new(
                "parts",
                Rung.Parts,
                StepKind.Do,
                "Take the sound parts out for the shelf. They are untested until a test says otherwise.",
                "Sharp edges inside.",
                15
            ),
            new(
                "recycle",
                Rung.Parts,
                StepKind.Check,
                "Hand the rest to a certified recycler where the rule asks for one.",
                null,
                5
            ),
        ];

    private static Step Plain(Cure cure, StepKind kind) =>
        new(
            cure.Id,
            cure.Rung,
            kind,
            cure.How is null ? $"{cure.Does}." : $"{cure.Does}. {cure.How}",
            cure.Caution,
            cure.HandsOnMinutes
        );
}
