using System.Collections.Concurrent;

namespace FreshBoot.Server.Hosting;

/// <summary>Something that the application does by itself and that failed, until it has worked again.</summary>
/// <param name="About">What it is about.</param>
/// <param name="Says">What failed, and why.</param>
/// <param name="At">When.</param>
internal sealed record Trouble(string About, string Says, DateTimeOffset At);

/// <summary>What failed while nobody looked: told on the bench and where it belongs, from then until it works again.</summary>
internal sealed class Troubles(TimeProvider clock, Changes changes)
{
    private readonly ConcurrentDictionary<string, Trouble> _now = new(StringComparer.Ordinal);

    /// <summary>What fails just now.</summary>
    public IReadOnlyList<Trouble> Now => [.. _now.Values.OrderBy(t => t.At)];

    /// <summary>Tells that something failed.</summary>
    public void Tell(string about, string says)
    {
        _now[about] = new Trouble(about, says, clock.GetUtcNow());
        changes.Tell("all", "");
    }

    /// <summary>It worked again.</summary>
    public void Over(string about)
    {
        if (_now.TryRemove(about, out _))
            changes.Tell("all", "");
    }
}
