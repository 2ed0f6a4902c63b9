using FreshBoot.Core.BootKits;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Identity;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Preparation;
using FreshBoot.Core.Reckoning;
using FreshBoot.Core.Routes;
using FreshBoot.Core.Sheets;
using FreshBoot.Core.Tests.Sheets;
using FreshBoot.Formats.Discs;

namespace FreshBoot.Core.Tests.Reckoning;

/// <summary>Faults put into plans that hold without them: reckoning has to stop at the rung and for the cause that was planted.</summary>
public class PlantedFaultTests
{
    private static readonly Start Yes = new(true, "");
    private static readonly Start No = new(false, "There is no loader for it.");

    private static readonly (string, object?)[] Legacy =
    [
        ("firmware.kind", "bios"),
        ("firmware.startedBy", "bios"),
        ("firmware.secureBoot", "absent"),
        ("firmware.year", 2009),
        ("firmware.reachBytes", 500_000_000_000L),
        ("tpm.version", "absent"),
    ];

    private static readonly (string, object?)[] Sonata =
    [
        ("identity.maker", "Ottavine"),
        ("identity.model", "Plinth PL-06B"),
        ("firmware.kind", "uefi64"),
        ("os.name", "Canzona 4"),
    ];

    /// <summary>The route that was chosen when nothing was wrong yet.</summary>
    private static Route RouteOf(string system, School school, (string, object?)[] machine)
    {
        var routes = AnySheets.Search.Find(Facts.GoodBut(machine), new RouteQuestion(AnySheets.Today));
        var found = routes.FirstOrDefault(r => r.System == system && r.School == school);
        found.ShouldNotBeNull(
            $"{system} by {school}; there are {string.Join(", ", routes.Select(r => $"{r.System} by {r.School}"))}"
        );
        return found;
    }

    private static Inspection Image(Start bios, Start uefi64, Start uefi32) =>
        new("image", 1_000_000_000, null, [], [], [], [], new Starts(bios, bios, uefi64, uefi64, uefi32, No), []);

    private static WorkItem Item(WorkItemKind kind, WorkItemState state, string says, string id = "item") =>
        new(id, kind, Rung.Setup, kind.ToString(), state, says, true, [], null, []);

    private static ReckonedStop? First(
        Route route,
        (string, object?)[] machine,
        Inspection? image = null,
        ReckonedMedium? medium = null,
        IReadOnlyList<WorkItem>? items = null,
        IReadOnlyList<KitFinding>? kit = null,
        bool isProtected = false,
        Supposing? what = null,
        IdentityProfile? identity = null
    )
    {
        var facts = Facts.GoodBut(machine);
        var question = AnySheets.Question(facts, route, items);
        var stops = Reckoner.Stops(
            new ReckoningQuestion(
                question,
                RunSheet.Of(question),
                question.System is { } system
                    ? new Evaluator(Shipped.Catalogue).Assess(facts, system, new Plan(AnySheets.Today, route.Cures))
                    : null,
                image ?? Image(Yes, Yes, Yes),
                medium ?? new ReckonedMedium("Stick 2", true, false, "read back and found right"),
                identity,
                kit ?? [],
                isProtected,
                what ?? Supposing.AsPlanned
            )
        );
        return stops.Count > 0 ? stops[0] : null;
    }

    private static (string, object?)[] With((string, object?)[] machine, params (string, object?)[] more) =>
        [.. machine.Where(m => more.All(o => o.Item1 != m.Item1)), .. more];

    private static readonly (string, object?)[] Plain = [];

    private static readonly (string, object?)[] Old =
    [
        .. Legacy,
        ("cpu.wordBits", 32),
        ("cpu.flags", new[] { "cmov", "sse2" }),
        ("memory.installedMiB", 2048),
    ];

    private sealed record Planted(string Cause, Rung Rung, Func<ReckonedStop?> Reckon);

    private static Planted[] All()
    {
        var comply = RouteOf("tessaly-6-r2", School.Comply, Plain);
        var light = RouteOf("wickerwork-26", School.Comply, Legacy);
        var patched = RouteOf("tessaly-6-r2", School.Patch, With(Plain, ("tpm.version", "absent")));
        var spoof = RouteOf("canzona-6", School.Spoof, Sonata);
        var own = "gpt 512 488281250: 1 system 2048 400000000";
        var late = "mbr 512 488281250: 1 home 2048 350000000; 2 system 350002048 130000000";
        return
        [
            new(
                "beyond-reach",
                Rung.Disk,
                () => First(light, With(Legacy, ("firmware.reachBytes", 137_438_953_472L), ("layout.own", late)))
            ),
            new("wrong-scheme", Rung.Medium, () => First(light, Legacy, Image(No, Yes, No))),
            new(
                "no-loader-32",
                Rung.Medium,
                () =>
                    First(
                        light,
                        With(Legacy, ("firmware.kind", "uefi32"), ("firmware.startedBy", "uefi")),
                        Image(Yes, Yes, No)
                    )
            ),
            new(
                "instruction-missing",
                Rung.Kernel,
                () =>
                    First(
                        comply,
                        With(
                            Plain,
                            ("cpu.flags", new[] { "lm", "cmov", "cx8", "fpu", "fxsr", "mmx", "syscall", "sse", "sse2" })
                        )
                    )
            ),
            new(
                "word-size",
                Rung.Kernel,
                () => First(light, With(Legacy, ("cpu.wordBits", 32), ("cpu.flags", new[] { "cmov", "sse2" })))
            ),
            new(
                "gate-checked",
                Rung.Setup,
                () =>
                    First(
                        patched,
                        With(Plain, ("tpm.version", "absent")),
                        items: [Item(WorkItemKind.Recipe, WorkItemState.Missing, "Not yet on the image.", "recipe-x")]
                    )
            ),
            new(
                "recipe-of-another-build",
                Rung.Setup,
                () =>
                    First(
                        patched,
                        With(Plain, ("tpm.version", "absent")),
                        items:
                        [
                            Item(
                                WorkItemKind.Recipe,
                                WorkItemState.Missing,
                                "It was proved with build 61140; the image is build 62093.",
                                "recipe-x"
                            ),
                        ]
                    )
            ),
            new("gate-tpm", Rung.Setup, () => First(comply, With(Plain, ("tpm.version", "absent")))),
            new(
                "write-incomplete",
                Rung.Medium,
                () =>
                    First(
                        comply,
                        Plain,
                        medium: new ReckonedMedium("Stick 2", false, false, "The writing was broken off.")
                    )
            ),
            new(
                "lying-stick",
                Rung.Medium,
                () =>
                    First(
                        comply,
                        Plain,
                        medium: new ReckonedMedium("Stick 5", true, true, "It says 32 GB, and has 4 GB.")
                    )
            ),
            new(
                "wireless-no-driver",
                Rung.Devices,
                () =>
                    First(
                        RouteOf("pebblemoss-32", School.Lighten, Old),
                        With(Old, ("network.0.model", "Netherby NB-25"))
                    )
            ),
            new(
                "memory-cap",
                Rung.Kernel,
                () =>
                    First(
                        RouteOf(
                            "pebblemoss-32",
                            School.Lighten,
                            With(Legacy, ("cpu.wordBits", 32), ("cpu.flags", new[] { "cmov", "sse2" }))
                        ),
                        With(
                            Legacy,
                            ("cpu.wordBits", 32),
                            ("cpu.flags", new[] { "cmov", "sse2" }),
                            ("memory.installedMiB", 8192)
                        )
                    )
            ),
            new("protection-still-on", Rung.Firmware, () => First(Reflash(), Locked, isProtected: true)),
            new("wrong-entry", Rung.Setup, () => First(comply, Plain, what: new Supposing(Firmware: "bios"))),
            new(
                "identity-wrong",
                Rung.Setup,
                () =>
                    First(
                        spoof,
                        Sonata,
                        items: [Item(WorkItemKind.Identity, WorkItemState.Missing, "It has no other identity yet.")]
                    )
            ),
            new(
                "kit-order",
                Rung.Setup,
                () =>
                    First(
                        spoof,
                        Sonata,
                        kit:
                        [
                            new KitFinding("drivers/audio", null, "It loads before the base shim that it needs.", null),
                        ],
                        items: Given,
                        identity: Later
                    )
            ),
            new(
                "kit-file-missing",
                Rung.Setup,
                () =>
                    First(
                        spoof,
                        Sonata,
                        kit: [new KitFinding("drivers/wired", null, "The file is listed, and is not there.", null)],
                        items: Given,
                        identity: Later
                    )
            ),
            new(
                "loader-not-signed",
                Rung.Firmware,
                () =>
                    First(
                        comply with
                        {
                            Cures = [.. comply.Cures, Unsigned],
                        },
                        With(Plain, ("firmware.secureBoot", "on")),
                        what: new Supposing(SecureBootOn: true)
                    )
            ),
            new(
                "other-drive-first",
                Rung.Disk,
                () =>
                    First(
                        light,
                        With(Legacy, ("storage.1.sizeBytes", 1_000_000_000_000L)),
                        what: new Supposing(FirstDrive: 1)
                    )
            ),
            new(
                "loader-on-medium",
                Rung.Disk,
                () => First(light, With(Legacy, ("plan.loader", "stick")), what: new Supposing(MediumOut: true))
            ),
            new("no-loader-place", Rung.Disk, () => First(light, With(Legacy, ("layout.own", own)))),
            new("no-room", Rung.Disk, () => First(light, With(Legacy, ("storage.0.sizeBytes", 4_000_000_000L)))),
            new("enrols-again", Rung.Release, () => First(comply, With(Plain, ("release.managed", "claimed")))),
            new("key-not-there", Rung.Release, () => First(comply, With(Plain, ("release.encryption", "key-missing")))),
            new("drive-dying", Rung.Parts, () => First(comply, With(Plain, ("parts.storage", "replace")))),
        ];
    }

    private static readonly WorkItem[] Given = [Item(WorkItemKind.Identity, WorkItemState.Ready, "Given.")];

    private static readonly IdentityProfile Later = new(
        IdentityLevel.Model,
        "Ottavine",
        "Plinth PL-09C",
        "PL-09C-B",
        null,
        null
    );

    private static readonly Cure Unsigned = new("unsigned", Outcome.Patch, Rung.Setup, "Another loader")
    {
        Loader = LoaderSignatures.None,
    };

    private static readonly (string, object?)[] Locked =
    [
        ("firmware.kind", "locked"),
        ("firmware.startedBy", null),
        ("identity.maker", "Brackwater"),
        ("identity.board", "Dottle"),
        ("tpm.version", "absent"),
        ("firmware.secureBoot", "absent"),
    ];

    private static Route Reflash()
    {
        var cure = Shipped.Catalogue.Boards[0].CureBy(Shipped.Catalogue.Payloads[0]);
        return RouteOf("wickerwork-26", School.Comply, Legacy) with { Cures = [cure], School = School.Reflash };
    }

    public static TheoryData<string> Causes() => [.. All().Select(p => p.Cause)];

    [Theory]
    [MemberData(nameof(Causes))]
    public void Reckoning_stops_at_the_planted_rung_with_the_planted_cause(string cause)
    {
        var planted = All().First(p => p.Cause == cause);
        var stop = planted.Reckon();
        stop.ShouldNotBeNull();
        stop.Cause.ShouldBe(cause, stop.Evidence);
        stop.Rung.ShouldBe(planted.Rung);
        stop.Evidence.Length.ShouldBeGreaterThan(10);
        // The fault finder knows the same cause by the same name, and what is done about it.
        Shipped.Catalogue.Causes.Single(c => c.Id == cause).Mend.Text.ShouldBe(stop.Cure);
    }

    [Fact]
    public void Without_a_fault_it_walks_to_the_end()
    {
        First(RouteOf("tessaly-6-r2", School.Comply, Plain), Plain).ShouldBeNull();
        First(RouteOf("wickerwork-26", School.Comply, Legacy), Legacy).ShouldBeNull();
    }
}
