using System.Security.Cryptography;
using System.Text;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Probes;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Intake;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;

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

/// <summary>What became of a bundle that came by a code.</summary>
/// <param name="Tag">The machine; null where it waits under arrivals.</param>
/// <param name="Arrival">The arrival; null where it has a tag.</param>
/// <param name="Warnings">What was left out and why.</param>
internal sealed record BundleTaken(string? Tag, int? Arrival, IReadOnlyList<string> Warnings);

/// <summary>A bundle that waits for a tag.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Model">Maker and model, as the bundle says; empty where it does not.</param>
/// <param name="Serial">Serial number, as the bundle says; empty where it does not.</param>
/// <param name="ReceivedAt">When it came in.</param>
/// <param name="KnownTag">The machine that has this serial number already; null for none.</param>
internal sealed record ArrivalShown(int Id, string Model, string Serial, DateTimeOffset ReceivedAt, string? KnownTag);

/// <summary>A tag for an arrival.</summary>
internal sealed record Tagging(string Tag, string By);

/// <summary>Whether the bench network shall be heard.</summary>
internal sealed record Switching(bool On, string By);

/// <summary>A name for a stick.</summary>
internal sealed record StickWish(string Name, string By);

/// <summary>What goes onto a stick so that its bundles are taken.</summary>
/// <param name="FileName">The name of the file.</param>
/// <param name="Content">What it holds; its key is shown this once.</param>
internal sealed record StickFile(string FileName, string Content);

internal static class ProbeEndpoints
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
                    HttpRequest request,
                    CancellationToken stop
                ) =>
                {
                    // The tag may come in the address or as JSON, and a POST without a body is one for the arrivals.
                    if (tag is null && request.HasJsonContentType() && request.ContentLength is not 0)
                        tag = (await request.ReadFromJsonAsync<CodeWish>(stop))?.Tag;
                    var code = codes.Make(tag is null ? null : Given.Tag(tag, "tag"));
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
                async (int id, Tagging tagging, ArrivalStore arrivals, TakeBundle intake, CancellationToken stop) =>
                {
                    Given.Text(tagging.By, "by", 60);
                    var tag = Given.Tag(tagging.Tag, "tag");
                    var file = await arrivals.ReadAsync(id, stop);
                    var taken = await intake.TakeAsync(tag, file, stop);
                    await arrivals.RemoveAsync(id, stop);
                    return taken;
                }
            )
            .WithSummary("Gives an arrival its tag: a new machine, or a further probe of a known one")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound);
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
                async (int id, ArrivalStore arrivals, CancellationToken stop) =>
                {
                    await arrivals.BarStickAsync(id, stop);
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
                    codes.Open(code);
                    return Results.Text(
                        $"FRESHBOOT_POST='{request.Scheme}://{request.Host}/api/probe/{code}'\n"
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
                async (string code, HttpRequest request, ProbeCodes codes, TakeBundle intake, CancellationToken stop) =>
                {
                    codes.Open(code);
                    using var body = new MemoryStream();
                    await request.Body.CopyToAsync(body, stop);
                    return await codes.UseAsync(
                        code,
                        c => intake.TakeAsync(c.Tag, new IncomingFile("bundle.tar.gz", Bytes(body.ToArray())), stop),
                        stop
                    );
                }
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
                    if (!await arrivals.KnowsStickAsync(Encoding.ASCII.GetString(buffer, 0, read), stop))
                        throw new RefusedException(
                            RefusalKind.Missing,
                            "This stick is not known here, or it was barred.",
                            "key",
                            "The fresh-boot.conf that intake makes, on the stick."
                        );
                    return Results.Text(codes.Make(null).Code);
                }
            )
            .TakesBody("text/plain", "The key in the stick's fresh-boot.conf.")
            .WithSummary("A one-time code for a probe stick, by the key in its fresh-boot.conf")
            .Produces<string>(contentType: "text/plain")
            .ProducesProblem(StatusCodes.Status404NotFound);
    }

    /// <summary>The bundle as it is, or out of base64 (RFC 4648): the small wget of live systems cannot send zero bytes.</summary>
    private static byte[] Bytes(byte[] body)
    {
        if (ProbeBundle.LooksLikeOne(body) || body.Length < 4)
            return body;
        try
        {
            return Convert.FromBase64String(Encoding.ASCII.GetString(body));
        }
        catch (FormatException)
        {
            // Refused as what it is: no bundle.
            return body;
        }
    }

    /// <summary>Hands the bench listener the few services it needs, the same ones as the application's.</summary>
    public static void Share(IServiceCollection services, IServiceProvider from) =>
        services
            .AddSingleton(from.GetRequiredService<ProbeCodes>())
            .AddSingleton(from.GetRequiredService<ProbeScript>())
            .AddSingleton(from.GetRequiredService<ArrivalStore>())
            .AddSingleton(from.GetRequiredService<TakeBundle>());

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

/// <summary>Takes bundles in, by whatever way they come.</summary>
internal sealed class TakeBundle(MachineStore machines, ArrivalStore arrivals, Shop shop, Changes changes)
{
    /// <summary>Takes a bundle for a machine, known or new; without a tag it waits under arrivals.</summary>
    public async Task<BundleTaken> TakeAsync(string? tag, IncomingFile file, CancellationToken stop)
    {
        using var stream = new MemoryStream(file.Content.ToArray(), writable: false);
        var report = ProbeReader.Read(ProbeBundle.Read(stream, file.Name), file.Name);
        if (tag is null)
        {
            var dossier = Derivation.Complete(report.Readings, shop.Catalogue);
            var model = $"{dossier.Word("identity.maker")} {dossier.Word("identity.model")}".Trim();
            var arrival = await arrivals.AddAsync(
                file.Name,
                file.Content,
                model,
                dossier.Word("identity.serial") ?? "",
                stop
            );
            changes.Tell("all", "");
            return new BundleTaken(null, arrival.Id, report.Warnings);
        }
        if ((await machines.InUseAsync(stop)).Contains(tag))
            await machines.TakeProbeAsync(tag, report.Readings, [file], report.Warnings, stop);
        else
            await machines.TakeInAsync(tag, report.Readings, [file], report.Warnings, stop);
        changes.Tell("all", "");
        return new BundleTaken(tag, null, report.Warnings);
    }
}
