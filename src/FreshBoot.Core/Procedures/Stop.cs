namespace FreshBoot.Core.Procedures;

/// <summary>
/// Steps that are done and looked at in one place at one time, so that a hand goes there once. Each of its steps stays a line of its own,
/// with its record and its branches.
/// </summary>
/// <param name="Title">What it is about; null for a single step, which speaks for itself.</param>
/// <param name="Steps">Ids of its steps on the main way, in their order; those of a branch belong to the step that branches.</param>
/// <param name="IsDanger">Whether one of them can hurt somebody or lose something, or cannot be undone.</param>
public sealed record Stop(string? Title, IReadOnlyList<string> Steps, bool IsDanger)
{
    /// <summary>Most lines of one stop: more do not fit on a screen beside what the line in hand shows.</summary>
    public const int MostLines = 14;

    private const int MostTitles = 2;

    /// <summary>
    /// The stops of a sheet. A step stands alone where a hand has to wait, to type, to choose, to try or to confirm with the tag. One with
    /// a caution begins a stop, so that the caution is read before anything below it is done; a stop ends where the place changes.
    /// </summary>
    public static IReadOnlyList<Stop> Of(IReadOnlyList<Step> steps)
    {
        var stops = new List<List<Part>>();
        foreach (var part in Parts(steps))
            if (part.Joins && stops is [.., var last] && last.Sum(p => p.Steps.Count) + part.Steps.Count <= MostLines)
                last.Add(part);
            else
                stops.Add([part]);
        return
        [
            .. stops.Select(parts => new Stop(
                parts is [{ Steps.Count: 1 }] ? null : Called(parts),
                [.. parts.SelectMany(p => p.Steps)],
                parts[0].IsDanger
            )),
        ];
    }

    /// <summary>The number of the stop of a step, from 1; a step of a branch belongs to the step that branches. 0 where there is none.</summary>
    public static int NumberOf(IReadOnlyList<Stop> stops, IReadOnlyList<Step> steps, Step step)
    {
        while (step.On is { } on && steps.FirstOrDefault(s => s.Id == on.Step) is { } main)
            step = main;
        for (var i = 0; i < stops.Count; i++)
            if (stops[i].Steps.Contains(step.Id))
                return i + 1;
        return 0;
    }

    /// <summary>Steps of one procedure in one place.</summary>
    private sealed record Part(
        string? Title,
        List<string> Steps,
        bool IsDanger,
        bool Joins,
        string Place,
        string Fragment
    )
    {
        public bool Open { get; init; } = true;
    }

    private static List<Part> Parts(IReadOnlyList<Step> steps)
    {
        var parts = new List<Part>();
        var running = "off";
        foreach (var step in steps.Where(s => s.On is null))
        {
            var place = Place(step, running);
            running = step.Does.GetValueOrDefault("running") ?? running;
            var alone = IsAlone(step);
            var before = parts.Count > 0 ? parts[^1] : null;
            var goesOn = !alone && step.Caution is null && before is { Open: true } && before.Place == place;
            if (goesOn && before!.Fragment == step.Fragment && before.Steps.Count < MostLines)
                before.Steps.Add(step.Id);
            else
                parts.Add(
                    new Part(
                        step.About,
                        [step.Id],
                        step.Caution is not null || step.Kind == StepKind.Confirm,
                        goesOn,
                        place,
                        step.Fragment
                    )
                    {
                        Open = !alone,
                    }
                );
        }
        return parts;
    }

    private static bool IsAlone(Step step) =>
        step.Kind is StepKind.Wait or StepKind.Type or StepKind.Choose or StepKind.Trial or StepKind.Confirm
        || step.WantsProbe;

    /// <summary>Where the hands are: at another computer, or at what runs on the machine while the step is done.</summary>
    private static string Place(Step step, string before)
    {
        if (step.Where == StepPlace.OtherComputer)
            return "other";
        var after = step.Does.GetValueOrDefault("running") ?? before;
        return after == "off" ? before : after;
    }

    private static string? Called(List<Part> parts)
    {
        var titles = parts.Select(p => p.Title).OfType<string>().Distinct(StringComparer.Ordinal).ToArray();
        return titles.Length == 0
            ? null
            : string.Join(
                "; ",
                titles.Take(MostTitles).Select((t, i) => i == 0 ? t : $"{char.ToLowerInvariant(t[0])}{t[1..]}")
            ) + (titles.Length > MostTitles ? "; …" : "");
    }
}
