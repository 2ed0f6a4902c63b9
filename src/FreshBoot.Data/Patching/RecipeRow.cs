namespace FreshBoot.Data.Patching;

/// <summary>A version of a recipe that was written in this shop.</summary>
public sealed class RecipeRow
{
    /// <summary>Key of the row.</summary>
    public int Id { get; init; }

    /// <summary>Id of the recipe.</summary>
    public required string RecipeId { get; init; }

    /// <summary>1 for the first.</summary>
    public required int Version { get; init; }

    /// <summary>The recipe as JSON.</summary>
    public required string Recipe { get; init; }

    /// <summary>Who wrote it.</summary>
    public required string By { get; init; }

    /// <summary>When.</summary>
    public required DateTimeOffset At { get; init; }
}
