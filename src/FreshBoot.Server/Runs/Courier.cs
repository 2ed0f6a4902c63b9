using System.Collections.Concurrent;
using System.Security.Cryptography;
using System.Text;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Runs;
using FreshBoot.Data.Runs;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Intake;
using QRCoder;

namespace FreshBoot.Server.Runs;

/// <summary>A command that waits under a short code.</summary>
/// <param name="Code">The code.</param>
/// <param name="Address">Where the machine, or a phone, finds it.</param>
/// <param name="ExpiresAt">When it runs out.</param>
/// <param name="Listening">Whether the bench listener is on; while it is off, only this computer reaches the address.</param>
internal sealed record CourierCode(string Code, string Address, DateTimeOffset ExpiresAt, bool Listening);

/// <summary>
/// Carries the exact command of a typed step to the machine, and what it printed back: nobody types forty signs from one screen
/// into another. Codes live in memory; a restart lets none of them in again, and the step gives a fresh one.
/// </summary>
internal sealed class Courier(TimeProvider clock)
{
    private static readonly TimeSpan Life = TimeSpan.FromHours(2);

    /// <summary>Signs that are not taken for one another when somebody types them: 40 bits.</summary>
    private const string Signs = "abcdefghjkmnpqrstuvwxyz023456789";
    private const int Length = 8;
    private const int Most = 1000;
    private readonly ConcurrentDictionary<string, Parcel> _parcels = new(StringComparer.Ordinal);

    /// <summary>What a code stands for.</summary>
    internal sealed record Parcel(string Run, string Step, DateTimeOffset ExpiresAt);

    /// <summary>The code of a step, the same as long as it is good.</summary>
    public (string Code, DateTimeOffset ExpiresAt) Make(string run, string step)
    {
        var now = clock.GetUtcNow();
        foreach (var (code, parcel) in _parcels)
            if (parcel.ExpiresAt <= now)
                _parcels.TryRemove(code, out _);
            else if (parcel.Run == run && parcel.Step == step)
                return (code, parcel.ExpiresAt);
        if (_parcels.Count >= Most)
            throw new RefusedException(
                RefusalKind.Conflict,
                "Too many commands wait for their machines.",
                "courier",
                "Those carried out first."
            );
        var made = new Parcel(run, step, now + Life);
        var fresh = RandomNumberGenerator.GetString(Signs, Length);
        _parcels[fresh] = made;
        return (fresh, made.ExpiresAt);
    }

    /// <summary>What a code stands for.</summary>
    /// <exception cref="RefusedException">There is no such, or none any more.</exception>
    public Parcel Open(string code) =>
        _parcels.TryGetValue(code, out var parcel) && parcel.ExpiresAt > clock.GetUtcNow()
            ? parcel
            : throw new RefusedException(
                RefusalKind.Missing,
                "No command waits under this code.",
                "code",
                "The code that the step shows now."
            );
}

internal static class CourierEndpoints
{
    /// <summary>What is kept of an output while it comes in, in bytes: enough for its last characters, however many bytes each has.</summary>
    private const int Kept = 4 * FollowRun.LongestOutput;

    public static void MapCourier(this IEndpointRouteBuilder app)
    {
        app.MapPost(
                "/api/runs/{id}/courier",
                async (
                    string id,
                    RunStore runs,
                    Courier courier,
                    BenchListener bench,
                    HttpRequest request,
                    CancellationToken stop
                ) =>
                {
                    var run = await runs.GetAsync(id, stop);
                    var step = run.State.IsOpen ? run.Steps[run.State.Current] : null;
                    if (step is not { Kind: StepKind.Type, Command: not null })
                        throw new RefusedException(
                            RefusalKind.Conflict,
                            "The step whose turn it is types nothing.",
                            "id",
                            "A run that stands at a typed step."
                        );
                    var (code, ends) = courier.Make(id, step.Id);
                    var root = bench.State.On ? bench.Root : $"{request.Scheme}://{request.Host}";
                    return new CourierCode(code, $"{root}/c/{code}", ends, bench.State.On);
                }
            )
            .WithSummary("Puts the command of the step whose turn it is under a short code")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);
        app.MapGet(
                "/c/{code}/qr.svg",
                (string code, Courier courier, BenchListener bench, HttpRequest request) =>
                {
                    courier.Open(code);
                    var root = bench.State.On ? bench.Root : $"{request.Scheme}://{request.Host}";
                    using var data = new QRCodeGenerator().CreateQrCode($"{root}/c/{code}", QRCodeGenerator.ECCLevel.M);
                    return Results.Text(
                        new SvgQRCode(data).GetGraphic(
                            1,
                            "#000000",
                            "#ffffff",
                            drawQuietZones: true,
                            SvgQRCode.SizingMode.ViewBoxAttribute
                        ),
                        "image/svg+xml"
                    );
                }
            )
            .WithSummary("The address of a command as a QR code, for a phone")
            .Produces<string>(contentType: "image/svg+xml")
            .ProducesProblem(StatusCodes.Status404NotFound);
        app.MapCourierOfBench();
    }

    /// <summary>What the bench listener serves of it: the command out, its output back.</summary>
    public static void MapCourierOfBench(this IEndpointRouteBuilder app)
    {
        app.MapGet(
                "/c/{code}",
                async (string code, Courier courier, RunStore runs, HttpRequest request, CancellationToken stop) =>
                {
                    var parcel = courier.Open(code);
                    var run = await runs.GetAsync(parcel.Run, stop);
                    var step = run.Steps.First(s => s.Id == parcel.Step);
                    var here = $"{request.Scheme}://{request.Host}/c/{code}";
                    return Results.Text(
                        $"""
                        {step.Command}

                        # For {run.Tag}. It should print: {step.Expect}
                        # To send back what it printed:
                        # ( {step.Command} ) 2>&1 | tee /tmp/out.txt; curl -s --data-binary @/tmp/out.txt {here}

                        """,
                        "text/plain"
                    );
                }
            )
            .WithSummary("The exact command of a step, by its short code")
            .Produces<string>(contentType: "text/plain")
            .ProducesProblem(StatusCodes.Status404NotFound);
        app.MapPost(
                "/c/{code}",
                async (
                    string code,
                    Courier courier,
                    RunStore runs,
                    FollowRun follow,
                    Changes changes,
                    HttpRequest request,
                    CancellationToken stop
                ) =>
                {
                    var parcel = courier.Open(code);
                    var text = await ReadAsync(request, stop);
                    var run = await runs.GetAsync(parcel.Run, stop);
                    var after = await follow.SayAsync(
                        run.Id,
                        new RunEventIn(
                            Guid.CreateVersion7().ToString("N"),
                            run.Events.Count,
                            "output",
                            parcel.Step,
                            "the machine itself",
                            new Dictionary<string, string>(StringComparer.Ordinal) { [RunRules.Text] = text }
                        ),
                        stop
                    );
                    // It may have come over the bench network, past what tells open pages of changes.
                    changes.Tell("all", "");
                    return Results.Text($"{after.State.Output?.Verdict}: {after.State.Output?.Line}\n", "text/plain");
                }
            )
            .TakesBody("text/plain", "What the command printed; the end of it is kept.")
            .WithSummary("Brings back what the command of a step printed")
            .Produces<string>(contentType: "text/plain")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);
    }

    private static async Task<string> ReadAsync(HttpRequest request, CancellationToken stop)
    {
        // The end decides, however long it is: what came before is let go.
        var bytes = new byte[2 * Kept];
        var held = 0;
        for (int read; (read = await request.Body.ReadAsync(bytes.AsMemory(held), stop)) > 0; )
        {
            held += read;
            if (held < bytes.Length)
                continue;
            bytes.AsSpan(Kept).CopyTo(bytes);
            held = Kept;
        }
        var text = Encoding.UTF8.GetString(bytes, 0, held);
        return text.Length > FollowRun.LongestOutput ? text[^FollowRun.LongestOutput..] : text;
    }
}
