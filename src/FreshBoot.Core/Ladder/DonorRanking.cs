using System.Globalization;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Ladder;

/// <summary>One part of a donor's score.</summary>
/// <param name="What">What is compared.</param>
/// <param name="Points">What it got.</param>
/// <param name="Most">What it could get.</param>
/// <param name="Says">How the two stand to each other.</param>
public sealed record DonorPart(string What, int Points, int Most, string Says);

/// <summary>A model whose identity a machine may take, with how near it is.</summary>
/// <param name="Donor">The model.</param>
/// <param name="Score">0 to 100: the sum of the parts.</param>
/// <param name="Parts">What it is made of.</param>
/// <param name="Breaks">What goes wrong where it is not near enough.</param>
public sealed record ScoredDonor(
    DonorModel Donor,
    int Score,
    IReadOnlyList<DonorPart> Parts,
    IReadOnlyList<string> Breaks
);

/// <summary>
/// Ranks the models whose identity a machine may take for a system: same line, same form, a processor generation that is near and
/// not below, graphics of the same family, a year that is near. A model that the system does not support is none. Each part counts
/// for itself, so that a donor which is better in one of them and equal in the rest never comes after.
/// </summary>
public static class DonorRanking
{
    private const int Line = 30;
    private const int Form = 20;
    private const int Generation = 25;
    private const int Graphics = 15;
    private const int Year = 10;

    /// <summary>What of a machine decides.</summary>
    private sealed record Traits(
        string? Maker,
        string? Line,
        string? Form,
        int? Generation,
        string? Graphics,
        long? Year
    );

    /// <summary>The donors that a system supports, the nearest first.</summary>
    /// <param name="facts">The machine.</param>
    /// <param name="system">Id of the system.</param>
    /// <param name="donors">The donors of the catalogue.</param>
    /// <param name="device">Finds a graphics chip by the name that the machine reports.</param>
    public static IReadOnlyList<ScoredDonor> Rank(
        IFacts facts,
        string system,
        IEnumerable<DonorModel> donors,
        Func<string, DeviceEntry?> device
    )
    {
        var traits = Of(facts, device);
        return
        [
            .. donors
                .Where(d => d.Systems.Contains(system))
                .Select(d => Scored(d, traits))
                .OrderByDescending(s => s.Score)
                .ThenBy(s => s.Donor.Generation)
                .ThenBy(s => s.Donor.Id, StringComparer.Ordinal),
        ];
    }

    /// <summary>Number of the processor's generation: 8 for C8; null where nobody knows it.</summary>
    public static int? GenerationOf(IFacts facts) =>
        facts.Word("cpu.generation") is [_, .. var number]
        && int.TryParse(number, NumberStyles.None, CultureInfo.InvariantCulture, out var generation)
            ? generation
            : null;

    /// <summary>Graphics that one driver carries: their maker and class.</summary>
    public static string? FamilyOf(DeviceEntry? device) =>
        device is { GraphicsClass: { } graphics }
            ? string.Create(CultureInfo.InvariantCulture, $"{device.Name.Split(' ')[0]} class {graphics}")
            : null;

    private static Traits Of(IFacts facts, Func<string, DeviceEntry?> device) =>
        new(
            facts.Word("identity.maker"),
            facts.Word("identity.line") ?? facts.Word("identity.model")?.Split(' ')[0],
            FormOf(facts.Word("identity.chassis")),
            GenerationOf(facts),
            facts.Word("graphics.0.model") is { } model ? FamilyOf(device(model)) : null,
            facts.Number("identity.year")
        );

    /// <summary>Forms that are cooled and powered alike.</summary>
    public static string? FormOf(string? chassis) =>
        chassis switch
        {
            "laptop" or "convertible" or "tablet" => "laptop",
            "mini" or "board" => "small desktop",
            "desktop" or "tower" or "server" => "desktop",
            "all-in-one" => "all-in-one",
            _ => null,
        };

    private static ScoredDonor Scored(DonorModel donor, Traits own)
    {
        var breaks = new List<string>();
        DonorPart[] parts =
        [
            LineOf(donor, own, breaks),
            Formed(donor, own, breaks),
            Near(donor, own, breaks),
            Drawn(donor, own, breaks),
            Made(donor, own),
        ];
        return new ScoredDonor(donor, parts.Sum(p => p.Points), parts, breaks);
    }

    private static DonorPart LineOf(DonorModel donor, Traits own, List<string> breaks)
    {
        if (donor.Line == own.Line && donor.Maker == own.Maker)
            return new DonorPart("line", Line, Line, $"{donor.Line}, as it is");
        if (own.Line is null)
            return new DonorPart("line", 0, Line, "nobody knows its line");
        breaks.Add(
            donor.Sensors is { } sensors
                ? $"Another line has other sensors ({sensors}): fans run at full speed or not at all. Watch the temperature."
                : "Another line has other sensors: fans run at full speed or not at all. Watch the temperature."
        );
        return new DonorPart(
            "line",
            0,
            Line,
            $"{donor.Maker} {donor.Line}, and it is {Numbers.A(own.Maker ?? "")} {own.Line}"
        );
    }

    private static DonorPart Formed(DonorModel donor, Traits own, List<string> breaks)
    {
        if (donor.Form is null || own.Form is null)
            return new DonorPart("form", 0, Form, "one of the two forms is not known");
        if (donor.Form == own.Form)
            return new DonorPart("form", Form, Form, $"{donor.Form}, as it is");
        breaks.Add(
            own.Form == "laptop" || donor.Form == "laptop"
                ? $"Power management of another form{Power(donor)}: battery, lid and sleep do not work as they should."
                : $"Power management of another form{Power(donor)}: it may not sleep, or not wake."
        );
        return new DonorPart("form", 0, Form, $"{donor.Form}, and it is {Numbers.A(own.Form)}");
    }

    private static string Power(DonorModel donor) => donor.PowerClass is { } power ? $" ({power})" : "";

    private static DonorPart Near(DonorModel donor, Traits own, List<string> breaks)
    {
        if (own.Generation is not { } generation)
            return new DonorPart("generation", 0, Generation, "nobody knows its processor’s generation");
        var above = donor.Generation - generation;
        if (above < 0)
            breaks.Add(
                $"Its processor is {-above} {(above == -1 ? "generation" : "generations")} newer than the donor’s: its power states are not used, and it runs warm."
            );
        else if (above > 2)
            breaks.Add(
                $"The donor’s processor is {above} generations newer: what the system expects of it may be missing, and sleep may hang."
            );
        return new DonorPart(
            "generation",
            above >= 0 ? Math.Max(0, Generation - 5 * above) : Math.Max(0, 10 + 5 * above),
            Generation,
            above switch
            {
                0 => "the same",
                > 0 => $"{above} above",
                _ => $"{-above} below",
            }
        );
    }

    private static DonorPart Drawn(DonorModel donor, Traits own, List<string> breaks)
    {
        if (donor.Graphics is null || own.Graphics is null)
            return new DonorPart("graphics", 0, Graphics, "one of the two is not known");
        if (donor.Graphics == own.Graphics)
            return new DonorPart("graphics", Graphics, Graphics, $"{own.Graphics}, both");
        breaks.Add(
            $"The system expects {donor.Graphics} and finds {own.Graphics}: no acceleration without its own patches, and a second screen may stay dark."
        );
        return new DonorPart("graphics", 0, Graphics, $"{donor.Graphics}, and it has {own.Graphics}");
    }

    private static DonorPart Made(DonorModel donor, Traits own) =>
        donor.Year is { } made && own.Year is { } year
            ? new DonorPart(
                "year",
                (int)Math.Max(0, Year - 2 * Math.Abs(made - year)),
                Year,
                string.Create(CultureInfo.InvariantCulture, $"{made} against {year}")
            )
            : new DonorPart("year", 0, Year, "one of the two is not known");
}
