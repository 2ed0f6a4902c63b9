using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Diagnosis;
using FreshBoot.Core.Procedures;

namespace FreshBoot.Core.Practice;

/// <summary>A practice as it stands: the machine answers each move.</summary>
public sealed class PracticePlay
{
    /// <summary>What somebody loses who goes on although the screen shows otherwise.</summary>
    private const int HarmOfGoingOn = 15;

    /// <summary>What somebody loses who gives another machine’s tag where something is erased or written.</summary>
    private const int HarmOfAnotherTag = 40;

    /// <summary>What somebody loses who erases something that was not the fault.</summary>
    private const int HarmOfErasing = 40;

    /// <summary>Minutes that it costs to stop where nothing stopped.</summary>
    private const int MinutesOfNothing = 5;

    private readonly PracticeBench _bench;
    private readonly int _seed;
    private readonly List<PracticeEntry> _log = [];
    private readonly List<CheckAnswer> _answers = [];
    private readonly List<PracticeCheck> _checks = [];
    private readonly HashSet<string> _decided = new(StringComparer.Ordinal);
    private int _at;
    private bool _mended;
    private Rung? _rung;
    private Rung? _answersOf;
    private FaultFinder? _finder;

    internal PracticePlay(PracticeBench bench, int seed)
    {
        _bench = bench;
        _seed = seed;
    }

    /// <summary>Minutes since the beginning; waits count, and pass at once.</summary>
    public int Minutes { get; private set; }

    /// <summary>What was done.</summary>
    public IReadOnlyList<PracticeEntry> Log => _log;

    /// <summary>What the checks showed.</summary>
    public IReadOnlyList<CheckAnswer> Answers => _answers;

    /// <summary>The checks that were made, beside better ones.</summary>
    public IReadOnlyList<PracticeCheck> Checks => _checks;

    /// <summary>How far it got, as somebody said; null while nothing is looked for.</summary>
    public Rung? At => _rung;

    /// <summary>Whether chances and next checks are shown.</summary>
    public bool Helped { get; private set; }

    /// <summary>Causes that were mended and were not the one.</summary>
    public int WrongMends { get; private set; }

    /// <summary>Searches for a fault where there was none.</summary>
    public int SearchesForNothing { get; private set; }

    /// <summary>How it ended; null while it goes on.</summary>
    public bool? EndedWell { get; private set; }

    /// <summary>Whether its last step was done; a good end may come before it, where the work had to stop.</summary>
    public bool Finished { get; private set; }

    /// <summary>Where it stands.</summary>
    public PracticeStage Stage =>
        EndedWell is not null ? PracticeStage.Ended
        : _rung is not null ? PracticeStage.Finding
        : Moment is not null ? PracticeStage.Moment
        : PracticeStage.Step;

    /// <summary>The step whose turn it is; null where it is over.</summary>
    public Step? Step => EndedWell is null ? _bench.Steps[_at] : null;

    /// <summary>The number of that step, from 1.</summary>
    public int Place => Math.Min(_at + 1, _bench.Steps.Count);

    /// <summary>What has to be decided before the step; null where nothing has.</summary>
    public ScenarioMoment? Moment =>
        Step is { } step
            ? _bench.Scenario.Moments.FirstOrDefault(m => m.At == step.Id && !_decided.Contains(m.Asks))
            : null;

    /// <summary>Whether the fault shows at this step.</summary>
    public bool Faulty => !_mended && Step is { } step && _bench.Scenario.Fault?.At == step.Id && Moment is null;

    /// <summary>What stands on the screen of the machine, line by line.</summary>
    public IReadOnlyList<string> Screen =>
        Faulty || (_rung is not null && !_mended && _bench.Scenario.Fault is not null)
            ? MachineScreen.Fault(_bench, _bench.Steps[_at])
            : MachineScreen.Of(_bench, Step);

    /// <summary>The causes as they stand.</summary>
    public IReadOnlyList<CauseChance> Causes() => _finder?.After(_answers) ?? [];

    /// <summary>The checks that tell something, the best first.</summary>
    public IReadOnlyList<CheckGain> Next() => _finder?.Next(_answers) ?? [];

    /// <summary>One move.</summary>
    /// <exception cref="RefusedException">It cannot be made here.</exception>
    public void Do(PracticeMove move)
    {
        if (Stage == PracticeStage.Ended)
            throw Refuse("The practice is over.", "A new one, from its beginning.");
        switch (move.Kind)
        {
            case PracticeMoveKind.GiveUp:
                GiveUp();
                break;
            case PracticeMoveKind.Help:
                Helped = true;
                break;
            case PracticeMoveKind.Chosen when Stage == PracticeStage.Moment:
                Choose(move.What);
                break;
            case PracticeMoveKind.Done when Stage == PracticeStage.Step:
                DoStep(move.What);
                break;
            case PracticeMoveKind.Otherwise when Stage == PracticeStage.Step:
                TakeOtherwise(move.What);
                break;
            case PracticeMoveKind.Stopped when Stage == PracticeStage.Step:
                StopAt(move.What);
                break;
            case PracticeMoveKind.Back when Stage == PracticeStage.Finding:
                Leave();
                break;
            case PracticeMoveKind.Check when Stage == PracticeStage.Finding:
                Look(move.What);
                break;
            case PracticeMoveKind.Mend when Stage == PracticeStage.Finding:
                Mend(move.What);
                break;
            default:
                throw Refuse($"That cannot be done now: {Wanted}", Wanted);
        }
    }

    private string Wanted =>
        Stage switch
        {
            PracticeStage.Moment => $"“{Moment!.Asks}” comes first.",
            PracticeStage.Finding => "a check, a cause, or back to the step.",
            _ => $"the step “{Step!.Text}” is to be done, or it stopped.",
        };

    private void Choose(string? what)
    {
        var moment = Moment!;
        var choice =
            moment.Choices.FirstOrDefault(c => c.Text == what)
            ?? throw Refuse(
                $"“{what}” cannot be chosen here.",
                $"{Numbers.Join(moment.Choices.Select(c => $"“{c.Text}”"), "or")}."
            );
        _decided.Add(moment.Asks);
        Note(choice.Text, choice.Minutes, choice.Harm, choice.Says);
        if (choice.Ends)
            EndedWell = choice.Right;
    }

    private void DoStep(string? what)
    {
        var step = Step!;
        if (
            step.Kind == StepKind.Confirm
            && !string.Equals(what?.Trim(), _bench.Scenario.Tag, StringComparison.OrdinalIgnoreCase)
        )
        {
            // A tag of no machine is a slip of the finger; the tag of the one beside it is the wrong machine.
            var other = _bench.Scenario.Beside.Any(b =>
                string.Equals(b, what?.Trim(), StringComparison.OrdinalIgnoreCase)
            );
            if (!other)
                throw Refuse(
                    "A danger step wants the tag of the machine.",
                    $"The tag of the machine before you, as it stands on its casing."
                );
            Note(
                step.Text,
                1,
                HarmOfAnotherTag,
                $"{what!.Trim().ToUpperInvariant()} is the machine beside it. At the bench this would have been refused; the hand was about to erase another’s drive."
            );
            return;
        }
        if (step.Kind == StepKind.Choose && !step.Options.Contains(what ?? ""))
            throw Refuse("Nothing of what there is was chosen.", $"One of: {string.Join("; ", step.Options)}.");
        if (Faulty)
        {
            Note(
                step.Text,
                step.UsualMinutes,
                HarmOfGoingOn,
                "It was said to be done, and the screen shows something else. Nothing goes on from here."
            );
            return;
        }
        Note(step.Text, step.UsualMinutes, 0, null);
        GoOn();
    }

    private void TakeOtherwise(string? when)
    {
        var step = Step!;
        var branch =
            step.Branches.FirstOrDefault(b => b.When == when)
            ?? throw Refuse(
                $"This step has no way on from “{when}”.",
                step.Branches.Count > 0
                    ? $"{Numbers.Join(step.Branches.Select(b => $"“{b.When}”"), "or")}."
                    : "The step has one way on."
            );
        var right = Faulty && _bench.Scenario.Fault!.Otherwise.Contains(branch.When);
        if (branch.Stop is { } stop)
        {
            if (Faulty && _bench.Cause is { Mend.Ends: false })
            {
                // The sheet has no way on from here, and somebody has to find out why.
                Note(branch.When, 1, 0, stop);
                Search(step.Rung);
                return;
            }
            EndedWell = right;
            Note(
                branch.When,
                step.UsualMinutes,
                0,
                right ? stop : $"{stop} That is not what the machine showed: one that lives was given up."
            );
            return;
        }
        Note(
            branch.When,
            step.UsualMinutes + branch.Then.Count * 3,
            0,
            right ? "That way round leads past it."
                : Faulty ? "It was gone, and the screen shows the same as before."
                : "The machine showed nothing of the kind: the way round was for nothing."
        );
        _mended |= right;
    }

    private void StopAt(string? what)
    {
        if (!Enum.TryParse<Rung>(what, ignoreCase: true, out var rung) || !Enum.IsDefined(rung))
            throw Refuse($"“{what}” is no rung.", "How far it got: one of the ten rungs.");
        if (!Faulty)
        {
            SearchesForNothing++;
            Note($"It stopped at {what}", MinutesOfNothing, 0, "Nothing had stopped: the screen shows what it should.");
            return;
        }
        Note(HowFar.All[(int)rung].Sees, 1, 0, null);
        Search(rung);
    }

    private void Search(Rung rung)
    {
        // What was looked at for another rung speaks of other causes.
        if (_answersOf != rung)
            _answers.Clear();
        (_rung, _answersOf) = (rung, rung);
        _finder = _bench.Finder(rung);
    }

    private void Leave()
    {
        Note("Back to the step.", 0, 0, null);
        _rung = null;
        _finder = null;
    }

    private void Look(string? id)
    {
        var check = _bench.FindCheck(id) ?? throw Refuse($"There is no check “{id}”.", "A check of the catalogue.");
        if (_answers.Any(a => a.Check == check.Id))
            throw Refuse("That was looked at already.", "Another check.");
        var next = Next();
        var gain = next.FirstOrDefault(g => g.Check.Id == check.Id) ?? new CheckGain(check, 0);
        var better = next.FirstOrDefault(g => g.Check.Id != check.Id && g.PerMinute > gain.PerMinute);
        var before = ChanceOfTruth();
        var seen = Shown(check);
        _answers.Add(new CheckAnswer(check.Id, seen.Id));
        var harm = check.Risk == CheckRisk.Erases && next.Any(g => g.Check.Risk != CheckRisk.Erases) ? 30 : 0;
        Note(
            check.Text,
            check.Minutes,
            harm,
            harm > 0 ? "It erases, and others that only look would have told something first." : null
        );
        _checks.Add(new PracticeCheck(gain, gain.Bits, before, ChanceOfTruth(), better));
    }

    private double ChanceOfTruth() =>
        Causes().FirstOrDefault(c => c.Cause.Id == _bench.Scenario.Fault?.Cause)?.Chance ?? 0;

    /// <summary>What a check shows: what its cause speaks for; where it does not speak of it, chance decides, the same for the same seed.</summary>
    private CheckShown Shown(CheckEntry check)
    {
        var truth = _bench.Scenario.Fault!.Cause;
        if (check.Shows.Any(s => s.Causes.ContainsKey(truth)))
            return check.Shows.MaxBy(s => s.Of(truth))!;
        var draw = Draw(check.Id) * check.Shows.Sum(s => s.Of(truth));
        foreach (var shown in check.Shows)
        {
            draw -= shown.Of(truth);
            if (draw < 0)
                return shown;
        }
        return check.Shows[^1];
    }

    /// <summary>From 0 up to 1 by seed and name: FNV-1a (Fowler, Noll, Vo), which is the same on every machine.</summary>
    private double Draw(string name)
    {
        var hash = 2166136261u ^ (uint)_seed;
        foreach (var c in name)
            hash = unchecked((hash ^ c) * 16777619u);
        return (hash >> 8) / (double)(1 << 24);
    }

    private void Mend(string? id)
    {
        var cause = _bench.FindCause(id) ?? throw Refuse($"There is no cause “{id}”.", "A cause of the catalogue.");
        var right = cause.Id == _bench.Scenario.Fault?.Cause;
        if (right)
        {
            _mended = true;
            Note(
                cause.Mend.Text,
                cause.Mend.Minutes,
                0,
                cause.Mend.Ends ? $"{cause.About}." : $"{cause.About}: it goes on."
            );
            (_rung, _finder) = (null, null);
            if (cause.Mend.Ends)
                EndedWell = true;
            return;
        }
        WrongMends++;
        var harm = cause.Mend.LosesData ? HarmOfErasing : 0;
        Note(
            cause.Mend.Text,
            cause.Mend.Minutes,
            harm,
            cause.Mend.Ends ? $"The work ended here, and it was not so: {Small(_bench.Cause!.About)}."
                : harm > 0 ? "It erased what was there, and the screen shows the same as before."
                : "The screen shows the same as before."
        );
        if (cause.Mend.Ends)
            EndedWell = false;
    }

    private void GiveUp()
    {
        var right = _bench.Cause is { Mend.Ends: true } && (Faulty || _rung is not null);
        Note(
            "It was given up.",
            1,
            0,
            right ? $"{_bench.Cause!.About}: nothing here mends it."
                : Faulty || _rung is not null ? $"It could have been mended: {Small(_bench.Cause!.About)}."
                : "Nothing was wrong with it."
        );
        EndedWell = right;
    }

    private void GoOn()
    {
        if (++_at < _bench.Steps.Count)
            return;
        _at = _bench.Steps.Count - 1;
        Finished = true;
        EndedWell = true;
    }

    private void Note(string words, int minutes, int harm, string? says)
    {
        _log.Add(new PracticeEntry(Minutes, words, minutes, harm, says));
        Minutes += minutes;
    }

    private static string Small(string text) => char.ToLowerInvariant(text[0]) + text[1..];

    private static RefusedException Refuse(string what, string wanted) =>
        new(RefusalKind.Conflict, what, "moves", wanted);
}
