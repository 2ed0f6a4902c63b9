using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Firmware;

namespace FreshBoot.Core.Tests.Firmware;

/// <summary>
/// The search is held against a second statement of the same trade rules, written as a table of what each change asks for and
/// solved backwards from every goal.
/// </summary>
public sealed class SwitchPlanTests
{
    private static readonly Dictionary<string, string> Usual = new()
    {
        ["mode"] = "uefi",
        ["compatibility"] = "off",
        ["secureBoot"] = "off",
        ["keys"] = "loaded",
        ["tpm"] = "off",
        ["password"] = "none",
        ["storage"] = "ahci",
        ["usbStart"] = "forbidden",
        ["order"] = "drive",
        ["version"] = "old",
        ["encryption"] = "none",
        ["outgoing"] = "none",
    };

    private static readonly FirmwareManners Plain = new(true, new HashSet<string>());

    private static SwitchPlan Plan(
        Dictionary<string, string> present,
        Dictionary<string, string> wanted,
        FirmwareManners? knows = null,
        bool keep = false
    ) => SwitchPlan.Of(new SwitchQuestion(With(present), wanted, knows ?? Plain, keep));

    private static Dictionary<string, string> With(Dictionary<string, string> said)
    {
        var all = new Dictionary<string, string>(Usual);
        foreach (var (key, value) in said)
            all[key] = value;
        return all;
    }

    private static string Steps(SwitchPlan plan) => string.Join(' ', plan.Steps!.Select(s => $"{s.Switch}={s.To}"));

    [Fact]
    public void Secure_boot_wants_uefi_the_compatibility_mode_off_and_keys_loaded()
    {
        var plan = Plan(
            new()
            {
                ["mode"] = "bios",
                ["compatibility"] = "on",
                ["keys"] = "none",
            },
            new() { ["secureBoot"] = "on" }
        );
        Assert.Equal("mode=uefi compatibility=off keys=loaded secureBoot=on", Steps(plan));
    }

    [Fact]
    public void A_grey_switch_takes_an_administrator_password_that_comes_off_again()
    {
        var plan = Plan(
            [],
            new() { ["secureBoot"] = "on" },
            Plain with
            {
                Grey = new HashSet<string> { "secureBoot" },
            }
        );
        Assert.Equal("password=set secureBoot=on password=none", Steps(plan));
    }

    [Fact]
    public void An_encrypted_drive_is_suspended_with_its_key_seen_and_resumed_at_the_end()
    {
        var plan = Plan(
            new() { ["encryption"] = "on", ["outgoing"] = "gpt" },
            new() { ["tpm"] = "firmware" },
            keep: true
        );
        Assert.Equal("encryption=keySeen encryption=suspended tpm=firmware encryption=keySeen", Steps(plan));
        var lost = Plan(new() { ["encryption"] = "lost" }, new() { ["tpm"] = "firmware" });
        Assert.Null(lost.Steps);
        Assert.Contains("nobody has the recovery key", lost.WhyNone);
    }

    [Fact]
    public void A_system_that_stays_gets_a_gpt_before_the_compatibility_mode_goes_off()
    {
        var present = new Dictionary<string, string>
        {
            ["mode"] = "bios",
            ["compatibility"] = "on",
            ["outgoing"] = "mbr",
        };
        Assert.Equal(
            "outgoing=gpt mode=uefi compatibility=off secureBoot=on",
            Steps(Plan(present, new() { ["secureBoot"] = "on" }, keep: true))
        );
        Assert.DoesNotContain("outgoing", Steps(Plan(present, new() { ["secureBoot"] = "on" })));
    }

    [Fact]
    public void A_hidden_tpm_comes_with_an_update_and_a_module_excludes_the_firmwares_own()
    {
        Assert.Equal(
            "version=current tpm=firmware",
            Steps(
                Plan(
                    new() { ["tpm"] = "hidden" },
                    new() { ["tpm"] = "firmware" },
                    Plain with
                    {
                        UpdateBy = UpdateWay.Stick,
                    }
                )
            )
        );
        var hidden = Plan(new() { ["tpm"] = "hidden" }, new() { ["tpm"] = "firmware" });
        Assert.Contains("newer firmware", hidden.WhyNone);
        Assert.Equal(
            "tpm=off tpm=firmware",
            Steps(Plan(new() { ["tpm"] = "module" }, new() { ["tpm"] = "firmware" }, Plain with { Module = true }))
        );
        Assert.Contains("No TPM module", Plan(new() { ["tpm"] = "firmware" }, new() { ["tpm"] = "module" }).WhyNone);
    }

    [Fact]
    public void Another_drive_controller_is_refused_to_a_system_that_has_to_start()
    {
        var present = new Dictionary<string, string> { ["outgoing"] = "gpt" };
        Assert.Equal("storage=raid", Steps(Plan(present, new() { ["storage"] = "raid" })));
        Assert.Contains("does not start", Plan(present, new() { ["storage"] = "raid" }, keep: true).WhyNone);
    }

    [Theory]
    [InlineData("mode", "floppy", "present.mode")]
    [InlineData("tpm", "cleared", "present.tpm")]
    public void What_no_switch_can_be_is_refused(string key, string value, string where) =>
        Assert.Equal(where, Assert.Throws<RefusedException>(() => Plan(new() { [key] = value }, [])).Refusal.Where);

    [Fact]
    public void What_contradicts_itself_is_said_and_what_cannot_be_asked_for_is_refused()
    {
        var both = Assert.Throws<RefusedException>(() =>
            Plan(
                new()
                {
                    ["mode"] = "bios",
                    ["compatibility"] = "on",
                    ["secureBoot"] = "on",
                },
                []
            )
        );
        Assert.Contains("both cannot be", both.Message);
        Assert.Equal(
            "wanted.tpm",
            Assert.Throws<RefusedException>(() => Plan([], new() { ["tpm"] = "absent" })).Refusal.Where
        );
    }

    [Fact]
    public void From_every_state_to_every_wish_the_plan_is_as_short_as_any_or_says_why_there_is_none()
    {
        // Every 389th state, another one for each wish; with FRESHBOOT_CASES=400 all of them, in some minutes.
        var stride = Math.Max(1, 389 / Cases.Times);
        var held = 0;
        foreach (var knows in Firmwares())
        foreach (var keep in new[] { false, true })
        {
            var model = new Model(knows);
            foreach (var wanted in Wishes())
            {
                // One list of distances for every state that may be present: what closes again depends on the password alone.
                foreach (var locked in new[] { false, true })
                {
                    var distance = model.Distances(wanted, keep, locked);
                    for (var i = held % stride; i < model.States.Count; i += stride)
                    {
                        var present = model.States[i];
                        if ((present["password"] == "set") != locked || SwitchPlan.Contradiction(present) is not null)
                            continue;
                        var plan = SwitchPlan.Of(new SwitchQuestion(present, wanted, knows, keep));
                        if (distance[i] == int.MaxValue)
                        {
                            Assert.Null(plan.Steps);
                            Assert.NotEmpty(plan.WhyNone!);
                        }
                        else
                        {
                            Assert.Equal(distance[i], plan.Steps?.Count);
                            model.Walk(i, plan.Steps!);
                        }
                        held++;
                    }
                }
            }
        }
        Assert.True(held > 300_000 / stride, $"{held}");
    }

    [Fact]
    public void No_step_clears_a_tpm_or_loads_defaults()
    {
        var model = new Model(Plain);
        foreach (var knows in Firmwares())
        foreach (var wanted in Wishes())
        {
            foreach (var present in model.States.Where((_, i) => i % 997 == 0))
            {
                if (SwitchPlan.Contradiction(present) is not null)
                    continue;
                foreach (var step in SwitchPlan.Of(new SwitchQuestion(present, wanted, knows)).Steps ?? [])
                {
                    Assert.DoesNotContain("clear", step.Does, StringComparison.OrdinalIgnoreCase);
                    Assert.DoesNotContain("reset", step.Does, StringComparison.OrdinalIgnoreCase);
                    Assert.DoesNotContain("default", step.Does, StringComparison.OrdinalIgnoreCase);
                    if (step.Switch == "tpm")
                        Assert.Contains("clear", step.Caution, StringComparison.OrdinalIgnoreCase);
                }
            }
        }
    }

    private static IEnumerable<FirmwareManners> Firmwares() =>
        [
            Plain,
            new(false, new HashSet<string>()),
            new(true, new HashSet<string> { "secureBoot", "keys" }, Module: true, UpdateBy: UpdateWay.Outgoing),
            new(true, new HashSet<string> { "tpm", "mode" }, UpdateBy: UpdateWay.Stick),
        ];

    private static IEnumerable<Dictionary<string, string>> Wishes()
    {
        (string Key, string Value)[] one =
        [
            ("mode", "bios"),
            ("mode", "uefi"),
            ("compatibility", "on"),
            ("compatibility", "off"),
            ("secureBoot", "on"),
            ("secureBoot", "off"),
            ("keys", "loaded"),
            ("tpm", "firmware"),
            ("tpm", "module"),
            ("version", "current"),
            ("encryption", "suspended"),
            ("outgoing", "gpt"),
        ];
        for (var i = 0; i < one.Length; i++)
        {
            yield return new() { [one[i].Key] = one[i].Value };
            for (var j = i + 1; j < one.Length; j += 3)
                if (one[i].Key != one[j].Key)
                    yield return new() { [one[i].Key] = one[i].Value, [one[j].Key] = one[j].Value };
        }
    }

    /// <summary>The trade's rules once more: for each change what has to hold, as a list of words.</summary>
    private sealed class Model
    {
        private readonly FirmwareManners _knows;
        private readonly Dictionary<string, int> _number = [];
        private readonly List<List<int>> _before = [];

        public List<Dictionary<string, string>> States { get; } = [];

        public Model(FirmwareManners knows)
        {
            _knows = knows;
            foreach (var mode in new[] { "bios", "uefi" })
            foreach (var compatibility in new[] { "on", "off" })
            foreach (var secureBoot in new[] { "absent", "off", "on" })
            foreach (var keys in new[] { "none", "loaded" })
            foreach (var tpm in new[] { "absent", "hidden", "off", "firmware", "module" })
            foreach (var password in new[] { "none", "set" })
            foreach (var version in new[] { "old", "current" })
            foreach (var encryption in new[] { "none", "on", "keySeen", "suspended", "lost" })
            foreach (var outgoing in new[] { "none", "mbr", "gpt" })
            {
                var state = With(
                    new()
                    {
                        ["mode"] = mode,
                        ["compatibility"] = compatibility,
                        ["secureBoot"] = secureBoot,
                        ["keys"] = keys,
                        ["tpm"] = tpm,
                        ["password"] = password,
                        ["version"] = version,
                        ["encryption"] = encryption,
                        ["outgoing"] = outgoing,
                    }
                );
                _number[Key(state)] = States.Count;
                States.Add(state);
            }
            _before.AddRange(States.Select(_ => new List<int>()));
            for (var i = 0; i < States.Count; i++)
                foreach (var (key, to) in Changes(States[i]))
                    _before[_number[Key(new(States[i]) { [key] = to })]].Add(i);
        }

        private static string Key(Dictionary<string, string> s) => string.Join(',', Usual.Keys.Select(k => s[k]));

        private static bool Starts(Dictionary<string, string> s) =>
            (s["outgoing"] == "mbr" && (s["mode"] == "bios" || s["compatibility"] == "on"))
            || (s["outgoing"] == "gpt" && s["mode"] == "uefi");

        private IEnumerable<(string Key, string To)> Changes(Dictionary<string, string> s)
        {
            bool Open(string key) => s["password"] == "set" || !_knows.Grey.Contains(key);
            var safe = s["encryption"] is "none" or "suspended";
            if (s["encryption"] == "on")
                yield return ("encryption", "keySeen");
            if (s["encryption"] == "keySeen" && Starts(s))
                yield return ("encryption", "suspended");
            if (s["encryption"] == "suspended" && Starts(s))
                yield return ("encryption", "keySeen");
            if (s["outgoing"] == "mbr" && Starts(s))
                yield return ("outgoing", "gpt");
            if (s["password"] == "set")
                yield return ("password", "none");
            else if (_knows.Grey.Count > 0)
                yield return ("password", "set");
            if (!safe)
                yield break;
            if (
                s["version"] == "old"
                && (
                    _knows.UpdateBy is UpdateWay.Stick or UpdateWay.Either
                    || (_knows.UpdateBy == UpdateWay.Outgoing && Starts(s))
                )
            )
                yield return ("version", "current");
            if (Open("mode"))
            {
                if (s["mode"] == "bios" && _knows.HasUefi)
                    yield return ("mode", "uefi");
                if (s["mode"] == "uefi" && s["compatibility"] == "on" && s["secureBoot"] != "on")
                    yield return ("mode", "bios");
            }
            if (Open("compatibility"))
            {
                if (s["compatibility"] == "on" && s["mode"] == "uefi")
                    yield return ("compatibility", "off");
                if (s["compatibility"] == "off" && s["secureBoot"] != "on")
                    yield return ("compatibility", "on");
            }
            if (Open("keys") && s["keys"] == "none" && s["mode"] == "uefi" && s["secureBoot"] != "absent")
                yield return ("keys", "loaded");
            if (Open("secureBoot"))
            {
                if (s["secureBoot"] == "on")
                    yield return ("secureBoot", "off");
                if (s["secureBoot"] == "off" && (s["mode"], s["compatibility"], s["keys"]) == ("uefi", "off", "loaded"))
                    yield return ("secureBoot", "on");
            }
            if (Open("tpm"))
            {
                var shown = s["tpm"] == "off" || (s["tpm"] == "hidden" && s["version"] == "current");
                if (s["tpm"] is "firmware" or "module" || (shown && s["tpm"] == "hidden"))
                    yield return ("tpm", "off");
                if (shown)
                    yield return ("tpm", "firmware");
                if (s["tpm"] == "off" && _knows.Module)
                    yield return ("tpm", "module");
            }
        }

        /// <summary>How many changes each state is away from what is wanted.</summary>
        public int[] Distances(Dictionary<string, string> wanted, bool keep, bool locked)
        {
            var distance = States
                .Select(s =>
                    wanted.All(w => s[w.Key] == w.Value)
                    && (locked || s["password"] == "none")
                    && (wanted.ContainsKey("encryption") || s["encryption"] != "suspended")
                    && (!keep || s["outgoing"] == "none" || Starts(s))
                        ? 0
                        : int.MaxValue
                )
                .ToArray();
            var reached = new Queue<int>(Enumerable.Range(0, distance.Length).Where(i => distance[i] == 0));
            while (reached.TryDequeue(out var at))
                foreach (var before in _before[at].Where(b => distance[b] == int.MaxValue))
                {
                    distance[before] = distance[at] + 1;
                    reached.Enqueue(before);
                }
            return distance;
        }

        /// <summary>Walks a plan from a state: each of its steps is a change that the model allows there.</summary>
        public void Walk(int from, IReadOnlyList<SwitchStep> steps)
        {
            var state = new Dictionary<string, string>(States[from]);
            foreach (var step in steps)
            {
                Assert.Equal(state[step.Switch], step.From);
                Assert.Contains((step.Switch, step.To), Changes(state));
                state[step.Switch] = step.To;
            }
        }
    }
}
