using System.Net.ServerSentEvents;
using System.Runtime.CompilerServices;
using System.Threading.Channels;

namespace FreshBoot.Server.Hosting;

/// <summary>Something that changed, so that every open page looks again.</summary>
/// <param name="Kind"><c>machine</c>, <c>all</c> after a gap, or <c>hello</c> at the start.</param>
/// <param name="Tag">The machine; empty for <c>all</c>.</param>
internal sealed record Change(string Kind, string Tag);

/// <summary>Tells open pages what changed: one stream a tab, with ids to resume from.</summary>
internal sealed class Changes(IHostApplicationLifetime lifetime)
{
    private const int Pending = 200;
    private readonly Lock _gate = new();
    private readonly List<Channel<SseItem<Change>>> _listeners = [];
    private long _last;

    public void Tell(string kind, string tag)
    {
        lock (_gate)
        {
            var item = new SseItem<Change>(new Change(kind, tag), "change") { EventId = $"{++_last}" };
            foreach (var listener in _listeners)
                listener.Writer.TryWrite(item);
        }
    }

    /// <summary>What changes from now on; after <paramref name="since"/>, the page is told to look at everything again.</summary>
    public async IAsyncEnumerable<SseItem<Change>> Listen(
        string? since,
        [EnumeratorCancellation] CancellationToken stop
    )
    {
        var channel = Channel.CreateBounded<SseItem<Change>>(
            new BoundedChannelOptions(Pending) { FullMode = BoundedChannelFullMode.DropOldest }
        );
        using var ends = CancellationTokenSource.CreateLinkedTokenSource(stop, lifetime.ApplicationStopping);
        // A first word at once, so that the page knows that the line stands.
        channel.Writer.TryWrite(new SseItem<Change>(new Change("hello", ""), "hello"));
        lock (_gate)
        {
            // It was away, or it outlived a restart: what it missed is all one to it.
            if (since is not null)
                channel.Writer.TryWrite(new SseItem<Change>(new Change("all", ""), "change") { EventId = $"{_last}" });
            _listeners.Add(channel);
        }
        try
        {
            while (await WaitAsync(channel, ends.Token))
            while (channel.Reader.TryRead(out var item))
                yield return item;
        }
        finally
        {
            lock (_gate)
                _listeners.Remove(channel);
        }
    }

    private static async Task<bool> WaitAsync(Channel<SseItem<Change>> channel, CancellationToken stop)
    {
        try
        {
            return await channel.Reader.WaitToReadAsync(stop);
        }
        catch (OperationCanceledException)
        {
            return false;
        }
    }
}
