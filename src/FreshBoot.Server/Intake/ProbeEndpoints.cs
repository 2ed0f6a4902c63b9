using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.RegularExpressions;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Intake;
using FreshBoot.Data.Runs;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Runs;

namespace FreshBoot.Server.Intake;

/// <summary>What a one-time code is for.</summary>
/// <param name="Tag">The machine, known or new; null where the bundle shall wait under arrivals.</param>
internal sealed record CodeWish(string? Tag = null);

/// <summary>A one-time code, ready to use.</summary>
/// <param name="Code">The code.</param>
/// <param name="Command">What to type in a live system on the bench network.</param>
/// <param name="ExpiresAt">When it runs out.</param>
/// <param name="Listening">Whether the bench listener is on; while it is off, only this computer reaches the address.</param>
internal sealed record CodeGiven(string Code, string Command, DateTimeOffset ExpiresAt, bool Listening);

/// <summary>A bundle that waits for a tag.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Model">Maker and model, as the bundle says; empty where it does not.</param>
/// <param name="Serial">Serial number, as the bundle says; empty where it does not.</param>
/// <param name="ReceivedAt">When it came in.</param>
/// <param name="KnownTag">The machine that has this serial number already; null for none.</param>
internal sealed record ArrivalShown(int Id, string Model, string Serial, DateTimeOffset ReceivedAt, string? KnownTag);

/// <summary>A tag for an arrival.</summary>
/// <param name="Tag">The tag.</param>
/// <param name="By">Who says so.</param>
/// <param name="Same">Whether that person says that it is this machine although something differs.</param>
internal sealed record Tagging([property: Tag] string Tag, [property: Line(60)] string By, bool Same = false);

/// <summary>Whether the bench network shall be heard.</summary>
internal sealed record Switching(bool On, [property: Line(60)] string By);

/// <summary>A name for a stick.</summary>
internal sealed record StickWish([property: Line(40)] string Name, [property: Line(60)] string By);

/// <summary>What goes onto a stick so that its bundles are taken.</summary>
/// <param name="FileName">The name of the file.</param>
/// <param name="Content">What it holds; its key is shown this once.</param>
internal sealed record StickFile(string FileName, string Content);

internal static partial class ProbeEndpoints
{
    private const int KeyBytes = 20;

    public static void MapProbes(this IEndpointRouteBuilder app)
    {
        app.MapPost(
                "/api/probe-codes",
                async (
                    string? tag,
                    ProbeCodes codes,
                    BenchListener bench,
                    RunStore runs,
                    HttpRequest request,
                    CancellationToken stop
                ) =>
                {
                    // The tag may come in the address or as JSON, and a POST without a body is one for the arrivals.
                    if (tag is null && request.HasJsonContentType() && request.ContentLength is not 0)
                        tag = (await Wish(request, stop))?.Tag;
                    var known = tag is null ? null : Given.Tag(tag, "tag");
                    // Where a run of the machine waits for its second probe, the bundle carries the code of that step.
                    var run = known is null ? null : await runs.LatestOfAsync(known, stop);
                    var code = codes.Make(known, run is { State.IsOpen: true } ? run.State.Code : null, null);
                    var root = bench.State.On ? bench.Root : $"{request.Scheme}://{request.Host}";
                    return new CodeGiven(
                        code.Code,
                        $"wget -qO- {root}/probe/{code.Code} | sh",
                        code.ExpiresAt,
                        bench.State.On
                    );
                }
            )
            .WithSummary("Makes a one-time code, and the command that reads a machine with it")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapBench();

        app.MapGet("/api/bench-listener", (BenchListener bench) => bench.State)
            .WithSummary("Whether machines on the bench network are heard");
        app.MapPut(
                "/api/bench-listener",
                async (Switching switching, BenchListener bench, CancellationToken stop) =>
                {
                    Given.Text(switching.By, "by", 60);
                    await bench.SwitchAsync(switching.On, stop);
                    return bench.State;
                }
            )
            .WithSummary("Switches the listener for the bench network on or off")
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapGet("/api/arrivals", ArrivalsAsync).WithSummary("Bundles that came without a tag, latest first");
        app.MapPost(
                "/api/arrivals/{id:int}/take",
                (int id, Tagging tagging, TakeBundle take, CancellationToken stop) =>
                    take.TagAsync(
                        id,
                        Given.Tag(tagging.Tag, "tag"),
                        tagging.Same ? IntakeEndpoints.Said(tagging.By) : null,
                        stop
                    )
            )
            .WithSummary("Gives an arrival its tag: a new machine, or a further probe of a known one")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);
        app.MapDelete(
                "/api/arrivals/{id:int}",
                async (int id, ArrivalStore arrivals, CancellationToken stop) =>
                {
                    await arrivals.RemoveAsync(id, stop);
                    return TypedResults.NoContent();
                }
            )
            .WithSummary("Sends an arrival away")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapGet("/api/probe-sticks", (ArrivalStore arrivals, CancellationToken stop) => arrivals.SticksAsync(stop))
            .WithSummary("The probe sticks that may ask for codes");
        app.MapPost(
                "/api/probe-sticks",
                async (StickWish wish, ArrivalStore arrivals, BenchListener bench, CancellationToken stop) =>
                {
                    var key = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(KeyBytes));
                    await arrivals.AddStickAsync(
                        Given.Text(wish.Name, "name", 40),
                        key,
                        Given.Text(wish.By, "by", 60),
                        stop
                    );
                    return new StickFile("fresh-boot.conf", $"server={bench.Root}\nkey={key}\n");
                }
            )
            .WithSummary("Makes the file that lets a probe stick post its bundles")
            .ProducesProblem(StatusCodes.Status400BadRequest);
        app.MapDelete(
                "/api/probe-sticks/{id:int}",
                async (int id, ArrivalStore arrivals, ProbeCodes codes, CancellationToken stop) =>
                {
                    await arrivals.BarStickAsync(id, stop);
                    codes.Revoke(id);
                    return TypedResults.NoContent();
                }
            )
            .WithSummary("Bars a probe stick that was lost")
            .ProducesProblem(StatusCodes.Status404NotFound);
    }

    /// <summary>What the bench network may reach: the script, bundles by a code, and codes for sticks that are known.</summary>
    public static void MapBench(this IEndpointRouteBuilder app)
    {
        app.MapGet(
                "/probe/{code}",
                async (
                    string code,
                    ProbeCodes codes,
                    ProbeScript script,
                    HttpRequest request,
                    CancellationToken stop
                ) =>
                {
                    var open = codes.Open(code);
                    return Results.Text(
                        $"FRESHBOOT_POST='{Root(request)}/api/probe/{open.Code}'\nFRESHBOOT_CODE='{open.RunCode}'\n"
                            + await File.ReadAllTextAsync(script.Path, stop),
                        "text/x-shellscript"
                    );
                }
            )
            .WithSummary("The probe script, set up to post its bundle by this code")
            .Produces<string>(contentType: "text/x-shellscript")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status410Gone);

        app.MapPost(
                "/api/probe/{code}",
                (string code, HttpRequest request, ProbeCodes codes, TakeBundle take, CancellationToken stop) =>
                    codes.UseAsync(
                        code,
                        async c =>
                            await take.TakeAsync(
                                c.Tag,
                                new IncomingFile("bundle.tar.gz", await BundleBody.ReadAsync(request.Body, stop)),
                                stop
                            ),
                        stop
                    )
            )
            .TakesBody("application/gzip", "A bundle as the probe writes it, or the same in base64.")
            .WithSummary("Takes a bundle by a one-time code; one that is refused leaves the code open")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status410Gone)
            .ProducesProblem(StatusCodes.Status413PayloadTooLarge)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);

        app.MapPost(
                "/api/probe-sticks/code",
                async (HttpRequest request, ProbeCodes codes, ArrivalStore arrivals, CancellationToken stop) =>
                {
                    var buffer = new byte[KeyBytes * 2];
                    var read = await request.Body.ReadAtLeastAsync(buffer, buffer.Length, false, stop);
                    var stick =
                        await arrivals.StickOfAsync(Encoding.ASCII.GetString(buffer, 0, read), stop)
                        ?? throw new RefusedException(
                            RefusalKind.Missing,
                            "This stick is not known here, or it was barred.",
                            "key",
                            "The fresh-boot.conf that intake makes, on the stick."
                        );
                    return Results.Text(codes.Make(null, null, stick).Code);
                }
            )
            .TakesBody("text/plain", "The key in the stick's fresh-boot.conf.")
            .WithSummary("A one-time code for a probe stick, by the key in its fresh-boot.conf")
            .Produces<string>(contentType: "text/plain")
            .ProducesProblem(StatusCodes.Status404NotFound);
    }

    /// <summary>Where a machine found this server. It goes into a script, so a name that is none is not repeated.</summary>
    /// <exception cref="RefusedException">The Host header is no name or address.</exception>
    private static string Root(HttpRequest request) =>
        HostForm().IsMatch(request.Host.Value ?? "")
            ? $"{request.Scheme}://{request.Host.Value}"
            : throw new RefusedException(
                RefusalKind.Invalid,
                "The Host header is no name and no address.",
                "Host",
                "The name or address of this server, with its port."
            );

    private static async Task<CodeWish?> Wish(HttpRequest request, CancellationToken stop)
    {
        try
        {
            return await request.ReadFromJsonAsync<CodeWish>(stop);
        }
        catch (Exception e) when (e is JsonException or InvalidOperationException or NotSupportedException)
        {
            throw new RefusedException(
                RefusalKind.Invalid,
                "The body is no JSON of the form that is wanted.",
                "body",
                "{\"tag\": \"MR-0417\"}, or no body."
            );
        }
    }

    /// <summary>A host as RFC 3986, section 3.2.2, has it, less what no workshop's network needs.</summary>
    [GeneratedRegex(@"^(?:[A-Za-z0-9](?:[A-Za-z0-9.-]{0,252})|\[[0-9A-Fa-f:.]{2,45}\])(?::[0-9]{1,5})?\z")]
    private static partial Regex HostForm();

    /// <summary>Hands the bench listener the few services it needs, the same ones as the application's.</summary>
    public static void Share(IServiceCollection services, IServiceProvider from) =>
        services
            .AddSingleton(from.GetRequiredService<ProbeCodes>())
            .AddSingleton(from.GetRequiredService<ProbeScript>())
            .AddSingleton(from.GetRequiredService<ArrivalStore>())
            .AddSingleton(from.GetRequiredService<TakeBundle>())
            .AddSingleton(from.GetRequiredService<Changes>())
            .AddSingleton(from.GetRequiredService<Courier>())
            .AddSingleton(from.GetRequiredService<RunStore>())
            .AddSingleton(from.GetRequiredService<FollowRun>());

    private static async Task<IEnumerable<ArrivalShown>> ArrivalsAsync(
        ArrivalStore arrivals,
        MachineIndex index,
        CancellationToken stop
    )
    {
        var waiting = await arrivals.ListAsync(stop);
        var known = new Dictionary<string, string?>(StringComparer.Ordinal);
        foreach (var serial in waiting.Select(a => a.Serial).Where(s => s.Length > 0).Distinct(StringComparer.Ordinal))
            known[serial] = await index.TagOfSerialAsync(serial, stop);
        return waiting.Select(a => new ArrivalShown(
            a.Id,
            a.Model,
            a.Serial,
            a.ReceivedAt,
            known.GetValueOrDefault(a.Serial)
        ));
    }
}

/// <summary>Where the probe script lies.</summary>
internal sealed record ProbeScript(string Path);
