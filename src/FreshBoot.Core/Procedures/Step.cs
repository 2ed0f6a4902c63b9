using System.Text.Json.Serialization;

namespace FreshBoot.Core.Procedures;

/// <summary>What a step asks of the person at the bench.</summary>
[JsonConverter(typeof(CamelCaseNames<StepKind>))]
public enum StepKind
{
    /// <summary>Do something with the hands.</summary>
    Do,

    /// <summary>Look whether something is as it should be.</summary>
    Check,

    /// <summary>Measure something and bring it in.</summary>
    Measure,

    /// <summary>Type a command.</summary>
    Type,

    /// <summary>Wait; hands are free meanwhile.</summary>
    Wait,

    /// <summary>Something that cannot be undone; wants the machine's tag.</summary>
    Confirm,
}

/// <summary>A step of a run sheet.</summary>
/// <param name="Id">Unique within the sheet.</param>
/// <param name="Rung">The rung it climbs.</param>
/// <param name="Kind">What it asks.</param>
/// <param name="Text">The instruction.</param>
/// <param name="Caution">What could be hurt or lost.</param>
/// <param name="UsualMinutes">The usual time.</param>
/// <param name="ShortestMinutes">The shortest sensible time.</param>
/// <param name="WorryMinutes">When to worry; 0 for twice the usual time.</param>
/// <param name="Command">The command to type, its values filled in.</param>
/// <param name="Expect">What it prints when it worked.</param>
/// <param name="Opens">A relaxation that this step opens and that must be closed again.</param>
/// <param name="Closes">A relaxation that this step closes.</param>
/// <param name="Wants">What must be there before it is done: <c>probe</c> for a probe since the start, or a fact key.</param>
public sealed record Step(
    string Id,
    Rung Rung,
    StepKind Kind,
    string Text,
    string? Caution,
    int UsualMinutes,
    int ShortestMinutes = 0,
    int WorryMinutes = 0,
    string? Command = null,
    string? Expect = null,
    string? Opens = null,
    string? Closes = null,
    string? Wants = null
)
{
    /// <summary>Ids of the work items that it uses; it is held while one of them is missing or stale.</summary>
    public IReadOnlyList<string> Uses { get; init; } = [];
}
