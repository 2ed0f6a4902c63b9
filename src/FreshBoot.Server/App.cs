using System.Text.Json.Serialization;
using FreshBoot.Data;
using FreshBoot.Data.Backups;
using FreshBoot.Data.Firmware;
using FreshBoot.Data.Images;
using FreshBoot.Data.Jobs;
using FreshBoot.Data.Media;
using FreshBoot.Data.Orders;
using FreshBoot.Data.Parts;
using FreshBoot.Data.Patching;
using FreshBoot.Server.Backups;
using FreshBoot.Server.Boards;
using FreshBoot.Server.BootKits;
using FreshBoot.Server.Catalogue;
using FreshBoot.Server.Demo;
using FreshBoot.Server.Diagnosis;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Exchange;
using FreshBoot.Server.Figures;
using FreshBoot.Server.Firmware;
using FreshBoot.Server.Fleet;
using FreshBoot.Server.Handover;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Identity;
using FreshBoot.Server.Images;
using FreshBoot.Server.Intake;
using FreshBoot.Server.Jobs;
using FreshBoot.Server.Layouts;
using FreshBoot.Server.Logbook;
using FreshBoot.Server.Media;
using FreshBoot.Server.Orders;
using FreshBoot.Server.Parts;
using FreshBoot.Server.Patching;
using FreshBoot.Server.Planning;
using FreshBoot.Server.Practice;
using FreshBoot.Server.Preparation;
using FreshBoot.Server.Rehearsal;
using FreshBoot.Server.Release;
using FreshBoot.Server.Routes;
using FreshBoot.Server.Runs;
using FreshBoot.Server.Scheduling;
using FreshBoot.Server.Sheets;
using FreshBoot.Server.Soundness;
using FreshBoot.Server.Upkeep;
using FreshBoot.Workshop;
using Microsoft.AspNetCore.HostFiltering;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.FileProviders;
using Microsoft.Net.Http.Headers;

namespace FreshBoot.Server;

/// <summary>
/// Puts the application together. Settings come from the command line (<c>--port</c>, <c>--bench-port</c>, <c>--data</c>,
/// <c>--demo</c>, <c>--home</c>, <c>--shop</c>, <c>--freeze</c>, and for tests <c>--hurry</c>, <c>--seed-only</c>, <c>--cloned</c>) or from the environment with the prefix <c>FRESHBOOT_</c>.
/// </summary>
internal static class App
{
    public static async Task<int> RunAsync(string[] args)
    {
        // Of their own, so that HOME or PORT of the environment are not taken for settings.
        var settings = new ConfigurationBuilder().AddEnvironmentVariables("FRESHBOOT_").AddCommandLine(args).Build();
        var home = settings["home"] ?? FindHome(Path.GetDirectoryName(typeof(App).Assembly.Location)!);
        var folder = new DataFolder(settings["data"] ?? Path.Combine(home, "data"));
        var who =
            $"process {Environment.ProcessId}, started {DateTime.Now:yyyy-MM-dd HH:mm}, port {settings.GetValue("port", 5080)}";
        try
        {
            // Before anything in the folder is looked at: what comes next moves files.
            using var held = FolderLock.Take(folder.Root, who);
            if (RestoreAtStart.Begin(folder) is { } back)
                await Console.Error.WriteLineAsync(back);
            // A back-up that lies ready takes the place of the data before anything reads them.
            if (RestoreAtStart.Take(folder) is { } before)
                Console.WriteLine(
                    $"A back-up has taken the place of the data. What was there before lies in {before}."
                );
            try
            {
                return await RunAsync(args, settings, home, folder, held);
            }
            catch (Exception e) when (RestoreAtStart.IsOnTrial(folder))
            {
                // An application that was put together let go of the folder when it ended.
                held.Dispose();
                using var again = FolderLock.Take(folder.Root, who);
                if (RestoreAtStart.GoBack(folder, e.Message) is { } said)
                    await Console.Error.WriteLineAsync(said);
                return await RunAsync(args, settings, home, folder, again);
            }
        }
        catch (FolderHeldException e)
        {
            await Console.Error.WriteLineAsync(e.Message);
            return AlreadyRunning;
        }
    }

    /// <summary>What a start ends with that found its data folder in use.</summary>
    public const int AlreadyRunning = 3;

    private static async Task<int> RunAsync(
        string[] args,
        IConfigurationRoot settings,
        string home,
        DataFolder folder,
        FolderLock held
    )
    {
        var builder = WebApplication.CreateBuilder(
            new WebApplicationOptions
            {
                // Settings are read once: watching for changes would walk through every folder below the one it was started in.
                Args = [.. args, "--hostBuilder:reloadConfigOnChange=false"],
                ContentRootPath = AppContext.BaseDirectory,
            }
        );
        var demo = settings.GetValue<bool>("demo");
        if (
            demo
            && !DemoClock.IsMarked(folder.Root)
            && (!File.Exists(folder.Database) || settings.GetValue<bool>("cloned"))
        )
            // What a clone was seeded with lies before it, as it does where it was seeded.
            DemoClock.Mark(folder.Root, settings.GetValue<bool>("cloned") ? TimeSpan.FromMinutes(1) : TimeSpan.Zero);
        var clock = DemoClock.Of(
            folder.Root,
            settings.GetValue<bool>("freeze"),
            Math.Max(1, settings.GetValue("hurry", 1))
        );

        builder.WebHost.ConfigureKestrel(kestrel =>
        {
            kestrel.ListenLocalhost(settings.GetValue("port", 5080));
            kestrel.AddServerHeader = false;
            kestrel.Limits.MaxRequestBodySize = IntakeEndpoints.LargestUpload;
        });
        builder.Services.Configure<HostFilteringOptions>(o => o.AllowedHosts = ["localhost", "127.0.0.1", "[::1]"]);
        // What goes well is not news; a workshop's console shows what does not.
        builder.Logging.SetMinimumLevel(LogLevel.Warning);
        builder.Services.AddHostFiltering(o => o.IncludeFailureMessage = false);
        // A body that cannot be read is told like any other refusal, in production too.
        builder.Services.Configure<RouteHandlerOptions>(o => o.ThrowOnBadRequest = true);
        builder.Services.Configure<FormOptions>(o => o.MultipartBodyLengthLimit = IntakeEndpoints.LargestUpload);
        builder.Services.AddSingleton(clock);
        // Let go of with the application, wherever that is hosted.
        builder.Services.AddSingleton(_ => held);
        // What a background service meets is told, and ends that round of it, never the application.
        builder.Services.Configure<HostOptions>(o =>
            o.BackgroundServiceExceptionBehavior = BackgroundServiceExceptionBehavior.Ignore
        );
        builder.Services.AddFreshBootData(folder);
        builder.Services.AddSingleton(CatalogueFiles.Read(Path.Combine(home, "catalogue")));
        builder.Services.AddSingleton<CatalogueKeeper>();
        builder.Services.AddSingleton(
            new ShopName(settings["shop"] ?? "Millrace Reuse Workshop", settings["data-rule"])
        );
        builder.Services.AddSingleton<Shop>();
        builder.Services.AddSingleton<MachineIndex>();
        builder.Services.AddSingleton<ShopLog>();
        builder.Services.AddSingleton<ProbeCodes>();
        builder.Services.AddSingleton(new ProbeScript(Path.Combine(home, "probe", "fresh-boot-probe.sh")));
        builder.Services.AddSingleton<TakeBundle>();
        builder.Services.AddSingleton(services => new BenchListener(services, settings.GetValue("bench-port", 5081)));
        builder.Services.AddSingleton<Changes>();
        builder.Services.AddSingleton<Troubles>();
        builder.Services.AddSingleton<JobRunner>();
        builder.Services.AddHostedService(services => services.GetRequiredService<JobRunner>());
        builder.Services.AddSingleton<ImageShelf>();
        builder.Services.AddSingleton<BringImage>();
        builder.Services.AddSingleton<MakeImage>();
        builder.Services.AddSingleton<PatchImage>();
        builder.Services.AddSingleton<StartTwin>();
        builder.Services.AddSingleton<WalkWholeWay>();
        builder.Services.AddSingleton<PlanAtHand>();
        builder.Services.AddSingleton<Rehearse>();
        builder.Services.AddSingleton<FindFault>();
        builder.Services.AddSingleton<Practise>();
        builder.Services.AddSingleton(
            new BackupOptions(settings["backups"], settings.GetValue("backup-hours", demo ? 0 : 24))
        );
        builder.Services.AddSingleton<BackupStore>();
        builder.Services.AddSingleton<BackUp>();
        builder.Services.AddHostedService<BackupSchedule>();
        builder.Services.AddSingleton<PackHandover>();
        builder.Services.AddSingleton<LookAfter>();
        builder.Services.AddSingleton<TellStay>();
        builder.Services.AddSingleton<AddUp>();
        builder.Services.AddSingleton<GatherPlan>();
        builder.Services.AddSingleton<MakePlan>();
        builder.Services.AddSingleton<AddMedium>();
        builder.Services.AddSingleton<WriteMedium>();
        builder.Services.AddSingleton<TestCapacity>();
        builder.Services.AddSingleton<MachineWork>();
        builder.Services.AddSingleton<PlanLayout>();
        builder.Services.AddSingleton<MachineDrives>();
        builder.Services.AddSingleton<GiveIdentity>();
        builder.Services.AddSingleton<BuildKit>();
        builder.Services.AddSingleton<PutKit>();
        builder.Services.AddSingleton<TwinOfFile>();
        builder.Services.AddSingleton<StartDrive>();
        builder.Services.AddSingleton<PlanSwitches>();
        builder.Services.AddSingleton<WorkOnChip>();
        builder.Services.AddSingleton<ComposeSheet>();
        builder.Services.AddSingleton<PreviewProcedure>();
        builder.Services.AddSingleton<Courier>();
        builder.Services.AddSingleton<BeginRun>();
        builder.Services.AddSingleton<FollowRun>();
        builder.Services.AddSingleton(new OwnerLanguages(Path.Combine(home, "catalogue", "words")));
        builder.Services.AddSingleton<MakeHandover>();
        builder.Services.AddSingleton<LeaveShop>();
        builder.Services.AddSingleton<DemoSeed>();
        builder.Services.AddValidation();
        builder.Services.AddSingleton(services => new RecipeBook(
            services.GetRequiredService<RecipeStore>(),
            RecipeBook.Shipped(Path.Combine(home, "catalogue", "recipes"))
        ));
        builder.Services.ConfigureHttpJsonOptions(o =>
        {
            // What is said is meant: no numbers in quotes, no null where none is allowed.
            o.SerializerOptions.NumberHandling = JsonNumberHandling.Strict;
            o.SerializerOptions.RespectNullableAnnotations = true;
            o.SerializerOptions.RespectRequiredConstructorParameters = true;
        });
        builder
            .Services.AddProblemDetails(o => o.CustomizeProblemDetails = Problems.Complete)
            .AddExceptionHandler<Problems>();
        builder.Services.AddOpenApi(Description.Configure);

        await using var app = builder.Build();
        app.Use(ProtectPages);
        app.UseExceptionHandler();
        app.UseStatusCodePages();
        app.UseHostFiltering();
        app.Use(RefuseForeignOrigins);
        app.Use(RefuseOtherEncodings);
        app.Use(TellChanges);
        ServePages(app, Path.Combine(home, "web", "dist"));

        app.MapOpenApi();
        var api = app.MapGroup("").AddEndpointFilter(new NoGaps());
        api.MapHealth();
        api.MapFacts();
        api.MapIntake();
        api.MapMachines();
        api.MapSystems();
        api.MapRoutes();
        api.MapSheets();
        api.MapCourier();
        api.MapOrders();
        api.MapCatalogue();
        api.MapMatrix();
        api.MapWanted();
        api.MapRuns();
        api.MapHandover();
        api.MapRelease();
        api.MapSoundness();
        api.MapProbes();
        api.MapCsv();
        api.MapParts();
        api.MapPhotos();
        api.MapLabels();
        api.MapImages();
        api.MapPatching();
        api.MapRehearsal();
        api.MapDiagnosis();
        api.MapPractice();
        api.MapBackups();
        api.MapUpkeep();
        api.MapPlans();
        api.MapLog();
        api.MapFigures();
        api.MapPreparation();
        api.MapMedia();
        api.MapLayouts();
        api.MapIdentity();
        api.MapKits();
        api.MapBoards();
        api.MapRoms();
        api.MapSwitches();
        api.MapChips();
        api.MapJobs();
        app.MapFallback(
                "/api/{**rest}",
                (string? rest, HttpContext context) =>
                    Results.Problem(
                        $"There is nothing at /api/{rest} for {context.Request.Method} with this kind of body.",
                        statusCode: 404,
                        title: "Not here",
                        extensions: new Dictionary<string, object?>(StringComparer.Ordinal)
                        {
                            ["where"] = $"/api/{rest}",
                            ["wanted"] = "A path, method and body as /openapi/v1.json describes them.",
                        }
                    )
            )
            .ExcludeFromDescription();

        _ = app.Services.GetRequiredService<FolderLock>();
        await using (
            var db = await app.Services.GetRequiredService<IDbContextFactory<FreshBootDb>>().CreateDbContextAsync()
        )
            await db.Database.MigrateAsync();
        WorkFolder.Sweep(folder.Work, folder.Root);
        await app.Services.GetRequiredService<PartStore>().LoadAsync();
        await app.Services.GetRequiredService<OrderStore>().LoadAsync();
        await app.Services.GetRequiredService<CatalogueKeeper>().LoadAsync(app.Lifetime.ApplicationStopping);
        app.Services.GetRequiredService<BackupStore>().Sweep();
        var onTrial = RestoreAtStart.IsOnTrial(folder);
        if (onTrial)
        {
            // Sticks and chips are what they are, whatever day the records are of.
            var of = RestoreAtStart.Of(folder);
            await app.Services.GetRequiredService<MediumStore>().DoubtAsync(of);
            await app.Services.GetRequiredService<ChipStore>().DoubtAsync(clock.GetUtcNow(), of);
        }
        await app.Services.GetRequiredService<JobStore>().RecoverAsync(app.Lifetime.ApplicationStopping);
        await app.Services.GetRequiredService<MediumStore>().RecoverAsync(app.Lifetime.ApplicationStopping);
        await app.Services.GetRequiredService<ImageUploads>().RecoverAsync(app.Lifetime.ApplicationStopping);
        // It watches the stores from the start.
        _ = app.Services.GetRequiredService<MachineIndex>();
        if (demo)
            await app
                .Services.GetRequiredService<DemoSeed>()
                .FillAsync(
                    Path.Combine(home, "demo"),
                    Path.Combine(home, ".cache", "images"),
                    app.Lifetime.ApplicationStopping
                );

        if (onTrial)
            RestoreAtStart.Confirm(folder);
        if (settings.GetValue<bool>("seed-only"))
            return 0;
        // The first page after a start should not have to wait for the reading of the fleet.
        app.Lifetime.ApplicationStarted.Register(() =>
            _ = Task.Run(() => WarmAsync(app.Services, app.Lifetime.ApplicationStopping))
        );
        await app.RunAsync();
        return 0;
    }

    /// <summary>One after the other, so that the bench, which is looked at first, does not wait for the log.</summary>
    private static async Task WarmAsync(IServiceProvider services, CancellationToken stop)
    {
        var (index, log) = (services.GetRequiredService<MachineIndex>(), services.GetRequiredService<ShopLog>());
        await index.WarmAsync(stop);
        await log.WarmAsync(stop);
    }

    /// <summary>The folder above the binaries that holds the catalogue.</summary>
    internal static string FindHome(string start)
    {
        for (var folder = new DirectoryInfo(start); folder is not null; folder = folder.Parent)
            if (Directory.Exists(Path.Combine(folder.FullName, "catalogue", "packs")))
                return folder.FullName;
        return Directory.GetCurrentDirectory();
    }

    private static void ServePages(WebApplication app, string dist)
    {
        if (!Directory.Exists(dist))
        {
            app.MapGet(
                    "/",
                    () =>
                        Results.Text(
                            "The web page is not built: run npm ci and npm run build in web/, or ./demo.sh.",
                            statusCode: 503
                        )
                )
                .ExcludeFromDescription();
            return;
        }
        var files = new PhysicalFileProvider(dist);
        app.UseStaticFiles(
            new StaticFileOptions
            {
                FileProvider = files,
                OnPrepareResponse = context =>
                    context.Context.Response.Headers[HeaderNames.CacheControl] =
                        context.Context.Request.Path.StartsWithSegments("/assets", StringComparison.Ordinal)
                            // Their names carry a hash of their content.
                            ? "public, max-age=31536000, immutable"
                            : "no-cache",
            }
        );
        app.MapFallbackToFile("index.html", new StaticFileOptions { FileProvider = files });
    }

    /// <summary>A page of another site must not write here, even from this computer's own browser.</summary>
    private static async Task RefuseForeignOrigins(HttpContext context, RequestDelegate next)
    {
        var origin = context.Request.Headers.Origin.ToString();
        if (origin.Length > 0 && origin != $"{context.Request.Scheme}://{context.Request.Host}")
        {
            await Results
                .Problem("Requests from other sites are not taken.", statusCode: 403, title: "Not from there")
                .ExecuteAsync(context);
            return;
        }
        await next(context);
    }

    /// <summary>Texts come in UTF-8 (RFC 8259 for JSON, and so for tables): what says that it is another encoding is not guessed at.</summary>
    private static Task RefuseOtherEncodings(HttpContext context, RequestDelegate next) =>
        MediaTypeHeaderValue.TryParse(context.Request.ContentType, out var type)
        && type.Charset is { HasValue: true } charset
        && !charset.Equals("utf-8", StringComparison.OrdinalIgnoreCase)
        && !charset.Equals("us-ascii", StringComparison.OrdinalIgnoreCase)
            ? throw new RefusedException(
                RefusalKind.Invalid,
                $"A body in “{charset}” is not read here.",
                "Content-Type",
                "The same text in UTF-8."
            )
            : next(context);

    /// <summary>After a write that was taken, every open page is told to look again.</summary>
    private static async Task TellChanges(HttpContext context, RequestDelegate next)
    {
        await next(context);
        if (
            HttpMethods.IsGet(context.Request.Method)
            || HttpMethods.IsHead(context.Request.Method)
            || context.GetEndpoint()?.Metadata.GetMetadata<OnlyReads>() is not null
            || context.Response.StatusCode >= 400
        )
            return;
        var changes = context.RequestServices.GetRequiredService<Changes>();
        changes.Tell(
            context.Request.RouteValues["tag"] is string ? "machine" : "all",
            context.Request.RouteValues["tag"] as string ?? ""
        );
    }

    private static Task ProtectPages(HttpContext context, RequestDelegate next)
    {
        // At the last moment: a refusal begins its answer anew.
        context.Response.OnStarting(() =>
        {
            var headers = context.Response.Headers;
            headers.ContentSecurityPolicy =
                "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; frame-ancestors 'none'; base-uri 'none'";
            headers.XContentTypeOptions = "nosniff";
            headers["Referrer-Policy"] = "no-referrer";
            return Task.CompletedTask;
        });
        return next(context);
    }
}
