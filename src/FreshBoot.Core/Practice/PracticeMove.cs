using System.Text.Json.Serialization;

namespace FreshBoot.Core.Practice;

/// <summary>What somebody does who practises.</summary>
[JsonConverter(typeof(CamelCaseNames<PracticeMoveKind>))]
public enum PracticeMoveKind
{
    /// <summary>The step is done; of a danger, with the tag.</summary>
    Done,

    /// <summary>The step went otherwise, by one of its ways round.</summary>
    Otherwise,

    /// <summary>One of the things that may be done at a moment.</summary>
    Chosen,

    /// <summary>It does not go on: how far it got, as a rung.</summary>
    Stopped,

    /// <summary>Chances and the next check are shown from now on.</summary>
    Help,

    /// <summary>A check is made.</summary>
    Check,

    /// <summary>A cause is mended.</summary>
    Mend,

    /// <summary>Back to the step: nothing was found.</summary>
    Back,

    /// <summary>The machine is given up.</summary>
    GiveUp,
}

/// <summary>One thing that was done.</summary>
/// <param name="Kind">What.</param>
/// <param name="What">Which: a tag, a way round, a choice, a rung, a check, a cause; null where the kind says it all.</param>
public sealed record PracticeMove(PracticeMoveKind Kind, string? What = null);

/// <summary>Where a practice stands.</summary>
[JsonConverter(typeof(CamelCaseNames<PracticeStage>))]
public enum PracticeStage
{
    /// <summary>A step is to be done.</summary>
    Step,

    /// <summary>Something has to be decided.</summary>
    Moment,

    /// <summary>The fault is looked for.</summary>
    Finding,

    /// <summary>It is over.</summary>
    Ended,
}

/// <summary>What was done, and what came of it.</summary>
/// <param name="AtMinute">Minutes since the beginning.</param>
/// <param name="Words">What was done.</param>
/// <param name="Minutes">How long it took.</param>
/// <param name="Harm">What it cost in safety.</param>
/// <param name="Says">What came of it; null where it went as it should.</param>
public sealed record PracticeEntry(int AtMinute, string Words, int Minutes, int Harm, string? Says);

/// <summary>A check that was made, beside the one that would have told most in a minute.</summary>
/// <param name="Check">The check.</param>
/// <param name="Bits">What it was good for, in bits, before anybody knew what it would show.</param>
/// <param name="Before">The chance of the true cause before it.</param>
/// <param name="After">And after it.</param>
/// <param name="Better">The check that would have told more in a minute; null where this was the best one.</param>
public sealed record PracticeCheck(
    Diagnosis.CheckGain Check,
    double Bits,
    double Before,
    double After,
    Diagnosis.CheckGain? Better
);
