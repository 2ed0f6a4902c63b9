using CsCheck;
using FreshBoot.Core.BootKits;
using FreshBoot.Core.Catalogue;

namespace FreshBoot.Core.Tests.BootKits;

public class KitBuilderTests
{
    private static readonly KitPart[] Parts = [KitPart.BootManager, KitPart.BaseShim, KitPart.Graphics, KitPart.Audio];

    /// <summary>Small sets of components: needs point to earlier ones, so that no circle is among them.</summary>
    private static readonly Gen<KitComponent[]> Sets = Gen.Select(
            Gen.Int[0, 3],
            Gen.Int[0, 511],
            Gen.Int[0, 511],
            (part, needs, excludes) => (part, needs, excludes)
        )
        .Array[1, 9]
        .Select(all =>
            all.Select(
                    (c, i) =>
                        new KitComponent($"c{i}", $"C {i}", Parts[c.part], "1.0", $"c{i}.kit")
                        {
                            Needs =
                            [
                                .. Enumerable.Range(0, i).Where(j => (c.needs >> j & 3) == 3).Select(j => $"c{j}"),
                            ],
                            Excludes =
                            [
                                .. Enumerable
                                    .Range(0, 9)
                                    .Where(j => j != i && (c.excludes >> j & 7) == 7)
                                    .Select(j => $"c{j}"),
                            ],
                        }
                )
                .ToArray()
        );

    private static bool Whole(IReadOnlyCollection<KitComponent> set, KitPart[] parts) =>
        parts.All(p => set.Any(c => c.Part == p))
        && set.All(c => c.Needs.All(n => set.Any(o => o.Id == n)))
        && !set.Any(c => c.Excludes.Any(e => set.Any(o => o.Id == e)));

    [Fact]
    public void The_set_is_as_small_as_the_smallest_of_all_there_are_and_the_first_of_them() =>
        Gen.Select(Sets, Gen.Int[1, 15])
            .Sample(
                (fits, mask) =>
                {
                    KitPart[] parts = [.. Parts.Where((_, i) => (mask >> i & 1) == 1)];
                    var all = Enumerable
                        .Range(0, 1 << fits.Length)
                        .Select(m => fits.Where((_, i) => (m >> i & 1) == 1).ToArray())
                        .Where(s => Whole(s, parts))
                        .OrderBy(s => s.Length)
                        .ThenBy(
                            s => string.Join('\n', s.Select(c => c.Id).Order(StringComparer.Ordinal)),
                            StringComparer.Ordinal
                        )
                        .FirstOrDefault();

                    KitBuilder
                        .Smallest(parts, fits)
                        ?.Select(c => c.Id)
                        .ShouldBe(all?.Select(c => c.Id).Order(StringComparer.Ordinal));
                    (KitBuilder.Smallest(parts, fits) is null).ShouldBe(all is null);
                },
                iter: 2000
            );

    [Fact]
    public void The_order_has_everything_behind_what_it_needs_and_comes_after() =>
        Sets.Sample(set =>
        {
            var withAfter = set.Select((c, i) => c with { After = i > 1 ? [$"c{i / 2}"] : [] }).ToArray();
            var ordered = KitBuilder.Ordered(withAfter).Select(c => c.Id).ToList();

            ordered.Count.ShouldBe(set.Length);
            foreach (var c in withAfter)
            foreach (var before in c.Needs.Concat(c.After).Where(b => ordered.Contains(b)))
                ordered.IndexOf(before).ShouldBeLessThan(ordered.IndexOf(c.Id));
        });

    private static readonly (string, object)[] Stile =
    [
        ("identity.maker", "Brackwater"),
        ("identity.board", "ST15-7"),
        ("identity.chassis", "laptop"),
        ("cpu.generation", "C7"),
        ("firmware.kind", "uefi64"),
        ("graphics.0.model", "Corvane C7 graphics"),
        ("graphics.0.class", 2),
        ("network.0.model", "Netherby NB-12"),
        ("audio.0.model", "Chorale CH-7"),
    ];

    private static BootKit Build(string system, params (string Key, object Value)[] changes)
    {
        var facts = Stile.ToDictionary(f => f.Item1, f => f.Item2, StringComparer.Ordinal);
        foreach (var (key, value) in changes)
            facts[key] = value;
        return KitBuilder.Build(
            Facts.Of([.. facts.Select(f => (f.Key, f.Value))]),
            Shipped.Catalogue.System(system)!,
            Shipped.Catalogue
        );
    }

    [Fact]
    public void A_laptop_of_another_maker_gets_every_part_with_its_reason_and_what_is_proved_on_its_board_first()
    {
        var kit = Build("canzona-6");

        kit.Components.Select(c => c.Component.Id)
            .ShouldBe([
                "lantern",
                "reedfs",
                "millpond",
                "underlay",
                "governor",
                "glaze-corvane",
                "choir",
                "ferryline",
                "fingertip",
                "ebb-c7-mobile",
            ]);
        kit.Components.Single(c => c.Component.Id == "millpond").Why.ShouldBe("Underlay base shim needs it.");
        kit.Trials.Single(t => t.Key == "sound.layout").Values[0].ShouldBe(5);
        kit.Lacks.ShouldContain(l => l.Contains("fingerprint"));
        kit.Quirks.Select(q => q.Key).ShouldBe(["keepMap"]);
    }

    [Fact]
    public void A_small_desktop_takes_the_mobile_table_and_a_tower_the_other_unless_somebody_says_so()
    {
        Build("canzona-6", ("identity.chassis", "mini")).Table.ShouldBe(PowerTableKind.Mobile);
        Build("canzona-6", ("identity.chassis", "tower")).Table.ShouldBe(PowerTableKind.Desktop);
        Build("canzona-6", ("identity.chassis", "mini"), ("cpu.kind", "desktop"))
            .Components.ShouldContain(c => c.Component.Id == "ebb-c7-desktop");
    }

    [Fact]
    public void A_machine_of_its_own_maker_wants_the_loader_and_its_shim_alone() =>
        Build(
            "canzona-6",
            ("identity.maker", "Ottavine"),
            ("graphics.0.model", "Corvane C6 graphics"),
            ("cpu.generation", "C6")
        )
            .Components.Select(c => c.Component.Id)
            .ShouldBe(["lantern", "reedfs", "millpond", "underlay"]);

    [Theory]
    [InlineData("graphics.0.class", 0, "class 0")]
    [InlineData("graphics.0.model", "Palisade P1 graphics", "no driver")]
    [InlineData("cpu.generation", "C6", "for a C6")]
    [InlineData("network.0.model", "Airlath AL-77", "network")]
    public void What_cannot_be_is_said_before_a_part_is_bought(string key, object value, string says) =>
        Should.Throw<RefusedException>(() => Build("canzona-6", (key, value))).Message.ShouldContain(says);

    [Fact]
    public void A_circle_in_a_pack_is_refused_with_its_path()
    {
        var (file, text) = Shipped.Packs.Single(p => p.File == "bootkits.json");
        var bent = text.Replace(
            "\"needs\": [\n        \"millpond\"\n      ]",
            "\"needs\": [\n        \"millpond\", \"governor\"\n      ]",
            StringComparison.Ordinal
        );
        bent.ShouldNotBe(text);
        var faults = Should
            .Throw<PackFaultsException>(() =>
                PackReader.Read(Shipped.Schema, [.. Shipped.Packs.Select(p => p.File == file ? (file, bent) : p)])
            )
            .Faults;
        faults.ShouldContain(f => f.What.Contains("a circle: underlay after governor after underlay"));
    }
}
