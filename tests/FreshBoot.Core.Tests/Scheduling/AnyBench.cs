using FreshBoot.Core.Scheduling;

namespace FreshBoot.Core.Tests.Scheduling;

/// <summary>Benches by chance: people with hours and skills, machines with work and waits, and too few of everything.</summary>
internal static class AnyBench
{
    public static BenchQuestion Of(int seed, int machines, int mostTasks, int longest, int day)
    {
        var random = new Random(seed);
        BenchPerson[] people =
        [
            .. Enumerable
                .Range(0, random.Next(1, 3))
                .Select(i => new BenchPerson(
                    $"P{i}",
                    [
                        .. Enumerable
                            .Range(0, 400)
                            .Select(d => new Shift(d * 2 * day + random.Next(0, day / 3 + 1), d * 2 * day + day)),
                    ],
                        // The first one can do everything, so that there is always a plan.
                        i == 0
                            ? [Skill.Casing, Skill.Programmer]
                        : random.Next(2) == 0 ? [Skill.Casing]
                        : []
                )),
        ];
        var capacity = Enum.GetValues<BenchResource>().ToDictionary(w => w, _ => random.Next(1, 3));
        var begun = new HashSet<string>(StringComparer.Ordinal);
        BenchChain[] chains =
        [
            .. Enumerable
                .Range(0, machines)
                .Select(m =>
                {
                    var tasks = Enumerable
                        .Range(0, random.Next(1, mostTasks + 1))
                        .Select(t => new BenchTask(
                            $"M{m}/{t}",
                            [$"{t}"],
                            "",
                            random.Next(1, longest + 1),
                            t == 0 || random.Next(3) > 0,
                            random.Next(5) == 0 ? [Skill.Casing]
                                : random.Next(8) == 0 ? [Skill.Programmer]
                                : []
                        ))
                        .ToArray();
                    var holds = Enum.GetValues<BenchResource>()
                        .Where(w => w == BenchResource.Bay || random.Next(2) == 0)
                        .Select(w =>
                        {
                            var from = w == BenchResource.Bay ? 0 : random.Next(tasks.Length);
                            var to = w == BenchResource.Bay ? tasks.Length - 1 : random.Next(from, tasks.Length);
                            return new Hold(w, from, to, false);
                        })
                        .ToArray();
                    var goesOn =
                        m < people.Length
                        && m < capacity[BenchResource.Bay]
                        && people[m].Can(tasks[0])
                        && people[m].Shifts[0] is { From: 0 } shift
                        && shift.To >= tasks[0].Minutes
                        && random.Next(2) == 0;
                    return new BenchChain(
                        $"M{m}",
                        tasks,
                        [.. holds.Select(h => h with { Already = goesOn && h.What == BenchResource.Bay })],
                        random.Next(2) == 0 ? random.Next(1, day * 3) : null,
                        goesOn,
                        goesOn ? people[m].Name : null
                    );
                }),
        ];
        return new BenchQuestion(people, capacity, chains, new Dictionary<string, Placed>(StringComparer.Ordinal));
    }
}
