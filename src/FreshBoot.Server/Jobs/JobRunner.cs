using System.Collections.Concurrent;
using System.Net.ServerSentEvents;
using System.Runtime.CompilerServices;
using System.Text.Json;
using FreshBoot.Core.Media;
using FreshBoot.Data.Jobs;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Jobs;

/// <summary>What came of a job; what does not belong to its kind is null.</summary>
/// <param name="ImageId">The image that was made or taken in.</param>
/// <param name="Verdict">Of a twin: <c>letIn</c>, <c>refused</c>, <c>loader</c> or <c>nothing</c>.</param>
/// <param name="Why">The verdict in a sentence.</param>
/// <param name="Text">What came down the twin's serial line.</param>
/// <param name="Screens">Addresses of the pictures of the twin's screen, in order.</param>
/// <param name="StartedAs">How the twin was started: <c>disc</c> or <c>stick</c>.</param>
/// <param name="Firmware">Firmware of the twin.</param>
/// <param name="Differs">Where the twin differs from the machine.</param>
/// <param name="Capacity">What a capacity test found.</param>
/// <param name="Seconds">How long it took.</param>
internal sealed record JobResult(
    int? ImageId = null,
    string? Verdict = null,
    string? Why = null,
    string? Text = null,
    IReadOnlyList<string>? Screens = null,
    string? StartedAs = null,
    string? Firmware = null,
    IReadOnlyList<string>? Differs = null,
    CapacityFinding? Capacity = null,
    double? Seconds = null
);

/// <summary>A job as it stands.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Kind"><c>patch</c>, <c>twin</c>, <c>write</c>, <c>capacity</c> or <c>take</c>.</param>
/// <param name="About">What it is about.</param>
/// <param name="Tag">The machine.</param>
/// <param name="ImageId">The image.</param>
/// <param name="MediumId">The medium.</param>
/// <param name="State"><c>queued</c>, <c>running</c>, <c>done</c>, <c>failed</c>, <c>cancelled</c> or <c>interrupted</c>.</param>
/// <param name="Part">The part that is done, 0 to 1.</param>
/// <param name="Says">What it is doing, or what came of it.</param>
/// <param name="Result">Its result, as far as there is one.</param>
/// <param name="By">Who asked for it.</param>
/// <param name="At">When.</param>
/// <param name="EndedAt">When it ended.</param>
internal sealed record JobSheet(
    int Id,
    string Kind,
    string About,
    string? Tag,
    int? ImageId,
    int? MediumId,
    string State,
    double Part,
    string Says,
    JobResult? Result,
    string By,
    DateTimeOffset At,
    DateTimeOffset? EndedAt
);

/// <summary>Does long work in the background: a few at a time of each kind, with progress, to be cancelled at any time.</summary>
internal sealed class JobRunner(
    JobStore store,
    Changes changes,
    IHostApplicationLifetime lifetime,
    ILogger<JobRunner> log
)
{
    private static readonly TimeSpan Tick = TimeSpan.FromMilliseconds(250);
    private readonly ConcurrentDictionary<int, Working> _working = new();
    private readonly ConcurrentDictionary<string, SemaphoreSlim> _lanes = new(StringComparer.Ordinal);

    /// <summary>A job under way.</summary>
    internal sealed class Working(JobRow row, CancellationTokenSource cancel, Action<Working> tell)
    {
        private long _told;

        public JobRow Row { get; set; } = row;
        public CancellationTokenSource Cancel { get; } = cancel;
        public bool CancelledByPerson { get; set; }
        public double Part { get; private set; }
        public string Says { get; private set; } = row.Says;
        public JobResult? Result { get; private set; }

        /// <summary>Tells how far it is; pages hear of it a few times a second at most.</summary>
        public void Progress(double part, string? says = null)
        {
            Part = Math.Clamp(part, 0, 1);
            if (says is not null)
                Says = says;
            var now = Environment.TickCount64;
            if (now - Interlocked.Read(ref _told) < Tick.TotalMilliseconds)
                return;
            Interlocked.Exchange(ref _told, now);
            tell(this);
        }

        /// <summary>Shows a result before the end.</summary>
        public void Show(JobResult result)
        {
            Result = result;
            tell(this);
        }

        public TaskCompletionSource Ended { get; } = new(TaskCreationOptions.RunContinuationsAsynchronously);
    }

    /// <summary>Begins a job; it is done in the background.</summary>
    /// <param name="kind">Its kind.</param>
    /// <param name="about">What it is about.</param>
    /// <param name="by">Who asks for it.</param>
    /// <param name="work">The work: what it says at the end, and its result.</param>
    /// <param name="tag">The machine.</param>
    /// <param name="image">The image.</param>
    /// <param name="medium">The medium.</param>
    /// <param name="broken">What to do where it fails, is cancelled or interrupted, with the reason; told before the job ends.</param>
    /// <param name="stop">Stops the asking, not the work.</param>
    public async Task<JobSheet> BeginAsync(
        string kind,
        string about,
        string by,
        Func<Working, CancellationToken, Task<(string Says, JobResult Result)>> work,
        string? tag = null,
        int? image = null,
        int? medium = null,
        Func<string, Task>? broken = null,
        CancellationToken stop = default
    )
    {
        var row = await store.AddAsync(kind, about, tag, image, medium, by, stop);
        var working = new Working(
            row,
            CancellationTokenSource.CreateLinkedTokenSource(lifetime.ApplicationStopping),
            w => changes.Tell("job", $"{w.Row.Id}")
        );
        _working[row.Id] = working;
        _ = Task.Run(() => RunAsync(working, work, broken), CancellationToken.None);
        return Sheet(row);
    }

    private async Task RunAsync(
        Working working,
        Func<Working, CancellationToken, Task<(string Says, JobResult Result)>> work,
        Func<string, Task>? broken
    )
    {
        var lane = _lanes.GetOrAdd(working.Row.Kind, _ => new SemaphoreSlim(2, 2));
        var (state, says) = ("failed", "");
        JobResult? result = null;
        var entered = false;
        try
        {
            await lane.WaitAsync(working.Cancel.Token);
            entered = true;
            working.Row = await store.SayAsync(working.Row.Id, "running", "", null);
            changes.Tell("job", $"{working.Row.Id}");
            (says, result) = await work(working, working.Cancel.Token);
            state = "done";
        }
        catch (OperationCanceledException)
        {
            (state, says) = working.CancelledByPerson
                ? ("cancelled", "Cancelled.")
                : ("interrupted", "The server was stopped before it was done.");
        }
        catch (RefusedException e)
        {
            says = $"{e.Refusal.What} ({e.Refusal.Where})";
        }
        catch (IOException e)
        {
            says = e.Message.Contains("No space left", StringComparison.Ordinal) ? "The disk is full." : e.Message;
        }
        catch (Exception e)
        {
            // A fault of ours must not leave a job that never ends.
            log.LogError(e, "Job {Id} ({Kind}) failed", working.Row.Id, working.Row.Kind);
            says = "It failed for a reason that is not known; the log has it.";
        }
        finally
        {
            if (entered)
                lane.Release();
        }
        try
        {
            if (state != "done" && broken is not null)
                await broken(says);
            var json = (result ?? working.Result) is { } r
                ? JsonSerializer.Serialize(r, JsonSerializerOptions.Web)
                : null;
            working.Row = await store.SayAsync(working.Row.Id, state, says, json);
        }
        catch (Exception e)
        {
            log.LogError(e, "The end of job {Id} could not be written down", working.Row.Id);
        }
        _working.TryRemove(working.Row.Id, out _);
        working.Ended.SetResult();
        working.Cancel.Dispose();
        changes.Tell("all", "");
    }

    /// <summary>Cancels a job; it has ended when this returns.</summary>
    public async Task<JobSheet> CancelAsync(int id, CancellationToken stop)
    {
        if (_working.TryGetValue(id, out var working))
        {
            working.CancelledByPerson = true;
            try
            {
                await working.Cancel.CancelAsync();
            }
            catch (ObjectDisposedException)
            {
                // It ended just now.
            }
            await working.Ended.Task.WaitAsync(stop);
        }
        return Sheet(await store.GetAsync(id, stop));
    }

    public async Task<JobSheet> GetAsync(int id, CancellationToken stop) => Sheet(await store.GetAsync(id, stop));

    public async Task<IReadOnlyList<JobSheet>> ListAsync(
        string? kind,
        int? image,
        string? tag,
        int? medium,
        int take,
        CancellationToken stop
    ) => [.. (await store.ListAsync(kind, image, tag, medium, take, stop)).Select(Sheet)];

    /// <summary>A job as it goes on, to its end.</summary>
    public async IAsyncEnumerable<SseItem<JobSheet>> FollowAsync(
        int id,
        [EnumeratorCancellation] CancellationToken stop
    )
    {
        JobSheet? last = null;
        for (var number = 1; ; number++)
        {
            var sheet = await GetAsync(id, stop);
            if (sheet != last)
                yield return new SseItem<JobSheet>(sheet, "job") { EventId = $"{number}" };
            last = sheet;
            if (sheet.State is not ("queued" or "running"))
                yield break;
            try
            {
                if (_working.TryGetValue(id, out var working))
                    await Task.WhenAny(working.Ended.Task, Task.Delay(Tick, stop));
            }
            catch (OperationCanceledException)
            {
                yield break;
            }
        }
    }

    private JobSheet Sheet(JobRow row)
    {
        var working = _working.GetValueOrDefault(row.Id);
        var result =
            working?.Result
            ?? (
                row.Result is null ? null : JsonSerializer.Deserialize<JobResult>(row.Result, JsonSerializerOptions.Web)
            );
        return new JobSheet(
            row.Id,
            row.Kind,
            row.About,
            row.Tag,
            row.ImageId,
            row.MediumId,
            row.State,
            row.State == "done" ? 1 : working?.Part ?? 0,
            working is { Says.Length: > 0 } ? working.Says : row.Says,
            result,
            row.By,
            row.At,
            row.EndedAt
        );
    }
}
