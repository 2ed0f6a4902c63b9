using FreshBoot.Core.Procedures;
using FreshBoot.Core.Routes;
using FreshBoot.Core.Sheets;

namespace FreshBoot.Core.Tests.Sheets;

/// <summary>
/// Faults planted into sheets that hold. What steps say that they need is taken away first: each is found by what the checker
/// holds whatever the procedures say.
/// </summary>
public class CheckerTests
{
    private sealed record Walked(Step[] Steps, Dictionary<string, string> Start, SheetGoal Goal)
    {
        public IReadOnlyList<SheetFault> Faults => Checker.Check(Steps, Start, Goal).Faults;

        public Walked Without(string id) => this with { Steps = [.. Steps.Where(s => s.Id != id && s.On?.Step != id)] };

        public Walked Undone(string id, string key) => Change(id, s => s with { Does = Less(s.Does, key) });

        public Walked Does(string id, string key, string value) =>
            Change(id, s => s with { Does = new Dictionary<string, string>(Less(s.Does, key)) { [key] = value } });

        public Walked Kind(string id, StepKind kind) => Change(id, s => s with { Kind = kind });

        public Walked Says(string id, string text) => Change(id, s => s with { Text = text });

        public Walked Begins(string key, string value) =>
            this with
            {
                Start = new Dictionary<string, string>(Start, StringComparer.Ordinal) { [key] = value },
            };

        /// <summary>The sheet with a step at another place, right before one that it has.</summary>
        public Walked Before(string id, string other)
        {
            var step = Steps.Single(s => s.Id == id);
            return this with
            {
                Steps = [.. Steps.Where(s => s != step).SelectMany(s => s.Id == other ? [step, s] : new[] { s })],
            };
        }

        private Walked Change(string id, Func<Step, Step> change)
        {
            Steps.ShouldContain(s => s.Id == id, $"the sheet has {id}");
            return this with { Steps = [.. Steps.Select(s => s.Id == id ? change(s) : s)] };
        }

        private static Dictionary<string, string> Less(IReadOnlyDictionary<string, string> does, string key) =>
            does.Where(d => d.Key != key).ToDictionary(d => d.Key, d => d.Value, StringComparer.Ordinal);
    }

    private static Walked Sheet(string? system, School school, params (string, object?)[] changes)
    {
        var facts = Facts.GoodBut(changes);
        var route = AnySheets
            .Search.Find(facts, new RouteQuestion(AnySheets.Today))
            .First(r => r.System == system && r.School == school);
        var question = AnySheets.Question(facts, route);
        var sheet = RunSheet.Of(question);
        sheet.Missing.ShouldBeEmpty();
        var bare = new Dictionary<string, IReadOnlyList<string>>(StringComparer.Ordinal);
        return new Walked(
            [.. sheet.Steps.Select(s => s with { Needs = bare })],
            new Dictionary<string, string>(sheet.Start, StringComparer.Ordinal),
            RunSheet.Goal(question)
        );
    }

    private static Walked Clean() => Sheet("wickerwork-26", School.Comply);

    private static Walked Two() =>
        Sheet("wickerwork-26", School.Comply, ("storage.1.sizeBytes", 1_000_000_000_000L), ("storage.1.bus", "sata"));

    private static Walked Part() =>
        Sheet("tessaly-6-r2", School.Comply, ("memory.installedMiB", 2048), ("memory.visibleMiB", 1900));

    private static Walked Reflash() =>
        Sheet("wickerwork-26", School.Reflash, ("identity.board", "WAGTAIL"), ("firmware.kind", "locked"));

    private static Walked Spoof() =>
        Sheet(
            "canzona-6",
            School.Spoof,
            ("identity.maker", "Ottavine"),
            ("identity.model", "Plinth PL-06B"),
            ("firmware.secureBoot", "absent")
        );

    private static Walked Retire() => Sheet(null, School.Retire);

    private static Walked Upgrade() =>
        Sheet(
            "tessaly-6-r2",
            School.Comply,
            ("plan.install", "inPlace"),
            ("os.name", "Tessaly 5"),
            ("os.edition", "Home"),
            ("os.language", "en"),
            ("os.freeBytes", 90_000_000_000L),
            ("os.works", "yes"),
            ("release.encryption", "key-seen")
        );

    private static Walked UpgradeTpm() =>
        Sheet(
            "tessaly-6-r2",
            School.Comply,
            ("plan.install", "inPlace"),
            ("os.name", "Tessaly 5"),
            ("os.edition", "Home"),
            ("os.language", "en"),
            ("os.freeBytes", 90_000_000_000L),
            ("os.works", "yes"),
            ("release.encryption", "key-seen"),
            ("tpm.version", "off")
        );

    private static Walked UpgradePatched() =>
        Sheet(
            "tessaly-6-r1",
            School.Patch,
            ("plan.install", "inPlace"),
            ("os.name", "Tessaly 5"),
            ("os.edition", "Home"),
            ("os.language", "en"),
            ("os.freeBytes", 90_000_000_000L),
            ("os.works", "yes"),
            ("tpm.version", "absent")
        );

    private static Walked Unwritten() => Clean();

    private static readonly Dictionary<string, (string Rule, Func<Walked> Plant)> Planted = new(StringComparer.Ordinal)
    {
        ["nobody was asked"] = ("leave", () => Clean().Undone("leave.ask", "leave")),
        ["data was not settled"] = ("data", () => Clean().Undone("data-unwanted.sure", "data")),
        ["erased without the tag"] = (
            "data",
            () => Clean().Begins("outgoing", "starts").Kind("erase-drive.erase", StepKind.Do)
        ),
        ["erased beside another drive"] = ("drives", () => Two().Undone("unplug-others.pull", "others")),
        ["other drives left out"] = ("relaxation", () => Two().Undone("plug-others.in", "others")),
        ["medium not read back"] = ("start", () => Clean().Undone("take-stick.take", "medium")),
        ["medium not plugged in"] = ("start", () => Clean().Undone("take-stick.plug", "mediumAt")),
        ["start from a stick not allowed"] = (
            "start",
            () => Clean().Undone("settings.usbStart-allowed-set", "usbStart")
        ),
        ["stick taken after the start"] = ("start", () => Clean().Before("start-installer.boot", "take-stick.take")),
        ["start from a stick left allowed"] = (
            "relaxation",
            () => Clean().Undone("settings-back.usbStart-forbidden-set", "usbStart")
        ),
        ["no loader on the drive"] = ("start", () => Clean().Undone("copy.out", "loader")),
        ["nothing was installed"] = (
            "start",
            () => Clean().Undone("copy.go", "installed").Undone("copy.out", "installed")
        ),
        ["power away while it copies"] = ("hands", () => Clean().Does("copy.wait", "power", "off")),
        ["no second probe"] = ("end", () => Clean().Without("prove.probe")),
        ["something of the shop left"] = ("end", () => Clean().Undone("clean-new.keys", "clean")),
        ["ends before it is ready"] = ("end", () => Clean().Undone("ready.bag", "state")),
        ["ends with nothing that starts"] = ("end", () => Clean().Does("ready.bag", "loader", "none")),
        ["casing opened under power"] = ("hands", () => Two().Undone("unplug-others.off", "power")),
        ["casing left open"] = ("relaxation", () => Two().Undone("plug-others.close", "case")),
        ["started with the casing open"] = ("hands", () => Two().Undone("unplug-others.close", "case")),
        ["a swollen battery charged"] = ("hands", () => Clean().Begins("battery", "bad")),
        ["two untried parts"] = ("untried", () => Clean().Does("bench.adapter", "untried", "2")),
        ["Secure Boot meets an unsigned loader"] = ("secureBoot", () => Spoof().Begins("secureBoot", "on")),
        ["medium out while the loader is on it"] = ("medium", () => Spoof().Does("updates.search", "mediumAt", "out")),
        ["medium written over with the loader on it"] = (
            "medium",
            () => Spoof().Does("updates.search", "medium", "written")
        ),
        ["chip written without a copy"] = (
            "firmware",
            () => Reflash().Undone("reflash.reflash-wagtail.copy", "firmwareCopy")
        ),
        ["chip written without mains"] = ("firmware", () => Reflash().Undone("reflash.reflash-wagtail.mains", "power")),
        ["chip written under its protection"] = (
            "firmware",
            () => Reflash().Undone("reflash.reflash-wagtail.protection", "writeProtect")
        ),
        ["chip written before the data is settled"] = ("data", () => Reflash().Undone("data-unwanted.sure", "data")),
        ["chip not verified"] = ("start", () => Reflash().Undone("reflash.reflash-wagtail.verify", "firmware")),
        ["protection left off"] = ("relaxation", () => Reflash().Undone("protection-on.on", "writeProtect")),
        ["firmware written under an unseen key"] = ("encryption", () => Reflash().Begins("encryption", "on")),
        ["TPM switched under an unseen key"] = (
            "encryption",
            () => Sheet("tessaly-6-r2", School.Comply, ("tpm.version", "off")).Begins("encryption", "on")
        ),
        ["scripts left open"] = ("relaxation", () => UpgradePatched().Undone("upgrade.scripts-shut", "scripts")),
        ["encryption left suspended"] = ("relaxation", () => Upgrade().Without("resume-encryption.resume")),
        ["scripts opened where nothing runs"] = (
            "outgoing",
            () => UpgradePatched().Undone("start-outgoing.start", "running")
        ),
        ["the old system started after it went"] = ("start", () => Upgrade().Begins("outgoing", "gone")),
        ["not retired"] = ("end", () => Retire().Undone("retire.recycle", "state")),
        // The machine at the step.
        ["the upgrade before the TPM that its gate wants"] = (
            "gate",
            () => UpgradeTpm().Before("settings.tpm-firmware-find", "ready.wipe")
        ),
        ["the installer before the memory that its gate wants"] = (
            "gate",
            () => Part().Before(LastOf(Part(), "fit-memory"), "ready.wipe")
        ),
        ["the installer under the machine's own identity"] = (
            "gate",
            () => Spoof().Undone("put-identity.identity-pl-08a.same", "identity")
        ),
        ["the maker's key after its firmware is gone"] = (
            "keys",
            () => Reflash().Says("start-installer.boot", "Press B at the unlocked-start screen and choose the stick.")
        ),
        ["the new firmware's key before it is on the chip"] = (
            "keys",
            () =>
                Reflash()
                    .Says(
                        "reflash.reflash-wagtail.unlocked",
                        "Press Esc while the sign of the new firmware is on the screen."
                    )
        ),
        ["settings of firmware that has none"] = (
            "settings",
            () => Reflash().Does("reflash.reflash-wagtail.line", "running", "setup")
        ),
        ["settings of a maker who ships none"] = ("settings", () => Spoof().Does("bench.off", "running", "setup")),
        ["a TPM switched while the drive that stays is encrypted"] = (
            "encryption",
            () => UpgradeTpm().Undone("suspend-encryption.suspend", "encryption")
        ),
        ["encryption suspended after the TPM was switched"] = (
            "encryption",
            () => UpgradeTpm().Before("suspend-encryption.suspend", "make-room.room")
        ),
        ["encryption on again before the TPM is switched"] = (
            "encryption",
            () => UpgradeTpm().Does("settings.note", "encryption", "on")
        ),
        ["the start mode changed under an encrypted drive that stays"] = (
            "encryption",
            () =>
                Upgrade()
                    .Does("start-outgoing.start", "bootMode", "bios")
                    .Undone("suspend-encryption.suspend", "encryption")
        ),
        ["Secure Boot changed under an unseen key"] = (
            "encryption",
            () =>
                Sheet("pebblemoss-32", School.Lighten, ("identity.maker", "Brackwater"), ("firmware.secureBoot", "on"))
                    .Begins("encryption", "unknown")
        ),
        ["a medium plugged in before it is made"] = (
            "medium",
            () => Unwritten().Before("take-stick.plug", "write-medium.begin")
        ),
        ["a medium written again after its kit was held against the list"] = (
            "medium",
            () => Spoof().Does("take-stick.take", "medium", "written")
        ),
        ["started from what was written on and not read back"] = (
            "start",
            () => Spoof().Undone("take-stick.take", "medium")
        ),
        ["work in the new system before it is there"] = ("place", () => Clean().Before("updates.network", "copy.go")),
        ["questions of the installer after it has gone"] = (
            "place",
            () => Clean().Before("ask-wickerwork.language", "prove.restarts")
        ),
        ["a command line that is not open any more"] = (
            "place",
            () => Reflash().Before("reflash.reflash-wagtail.read", "take-stick.take")
        ),
        ["work in the old system while the installer runs"] = (
            "outgoing",
            () => Upgrade().Before("suspend-encryption.state", "devices.clock")
        ),
        ["the old system started after its drive came out"] = (
            "start",
            () =>
                Sheet(
                        "tessaly-6-r2",
                        School.Comply,
                        ("parts.storage", "replace"),
                        ("os.name", "Tessaly 5"),
                        ("os.works", "yes")
                    )
                    .Does("swap-drive.drive-sata-240.leave", "running", "outgoing")
        ),
        ["a start from a stick that nobody has looked at"] = (
            "start",
            () => Clean().Without("settings.usbStart-allowed-set").Begins("usbStart", "unknown")
        ),
        ["a start from a stick that is forbidden"] = (
            "start",
            () => Clean().Does("settings.save", "usbStart", "forbidden")
        ),
    };

    private static string LastOf(Walked sheet, string fragment) =>
        sheet.Steps.Last(s => s.On is null && s.Fragment.StartsWith(fragment, StringComparison.Ordinal)).Id;

    public static TheoryData<string> Names => [.. Planted.Keys];

    [Theory]
    [MemberData(nameof(Names))]
    public void A_planted_fault_is_found(string name)
    {
        var (rule, plant) = Planted[name];
        plant().Faults.ShouldContain(f => f.Rule == rule, name);
    }

    [Fact]
    public void There_are_more_than_fifty_of_them_and_what_is_found_names_rule_step_and_what_happens()
    {
        Planted.Count.ShouldBeGreaterThan(50);
        foreach (var (name, (rule, plant)) in Planted)
        {
            var sheet = plant();
            var fault = sheet.Faults.FirstOrDefault(f => f.Rule == rule);
            fault.ShouldNotBeNull(name);
            sheet.Steps.ShouldContain(s => s.Id == fault.Step, name);
            fault.Says.Split(' ').Length.ShouldBeGreaterThan(3, name);
        }
    }

    [Fact]
    public void Nothing_is_found_where_nothing_was_planted()
    {
        foreach (var sheet in new[] { Clean(), Two(), Part(), Reflash(), Spoof(), Retire(), Upgrade() })
            sheet.Faults.ShouldBeEmpty();
    }

    [Fact]
    public void A_branch_that_comes_back_without_the_deed_is_found_by_the_need_of_a_later_step()
    {
        var facts = Facts.GoodBut();
        var route = AnySheets
            .Search.Find(facts, new RouteQuestion(AnySheets.Today))
            .First(r => r is { System: "wickerwork-26", School: School.Comply });
        var question = AnySheets.Question(facts, route);
        var sheet = RunSheet.Of(question);
        Step[] steps =
        [
            .. sheet.Steps.Select(s =>
                s.Id == "start-installer.safe"
                    ? s with
                    {
                        Does = new Dictionary<string, string>(StringComparer.Ordinal),
                    }
                    : s
            ),
        ];
        Checker.Check(sheet.Steps, sheet.Start, RunSheet.Goal(question)).Faults.ShouldBeEmpty();
        Checker.Check(steps, sheet.Start, RunSheet.Goal(question)).Faults.ShouldContain(f => f.Rule == "needs");
    }

    [Fact]
    public void Every_end_says_whether_the_machine_starts_then()
    {
        var ends = Checker.Check(Clean().Steps, Clean().Start, Clean().Goal).Ends;
        ends.Count(e => e.Stopped is null).ShouldBe(1);
        ends.Single(e => e.Stopped is null).Starts.ShouldBeTrue();
        ends.Where(e => !e.Starts && e.Stopped is not null)
            .ShouldAllBe(e => e.World["drive"] != "owner" || e.World["outgoing"] != "starts");
    }
}
