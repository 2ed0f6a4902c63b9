using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.RegularExpressions;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Exchange;
using FreshBoot.Core.Layouts;
using FreshBoot.Data;
using FreshBoot.Formats;
using FreshBoot.Server.Catalogue;
using FreshBoot.Server.Intake;
using Microsoft.AspNetCore.Diagnostics;
using Microsoft.AspNetCore.Mvc;

namespace FreshBoot.Server.Hosting;

/// <summary>
/// Refusals leave as Problem Details (RFC 9457): <c>detail</c> says what is wrong, and the members <c>where</c> and
/// <c>wanted</c> say where and what would be right.
/// </summary>
internal sealed partial class Problems(IProblemDetailsService details) : IExceptionHandler
{
    public async ValueTask<bool> TryHandleAsync(
        HttpContext context,
        Exception exception,
        CancellationToken cancellationToken
    )
    {
        var refusal =
            exception is RefusedException refused ? refused.Refusal
            : exception is FormatRefusedException format
                ? new Refusal(RefusalKind.Unreadable, format.Message, format.Where, format.Wanted)
            : DiskFull.Is(exception) ? NoRoom
            : Chain(exception).Any(IsTooLarge) ? TooLarge
            : exception is BadHttpRequestException bad ? Unreadable(bad)
            : exception is InvalidDataException && context.Request.HasFormContentType ? Cut
            : exception is PackFaultsException packs
                ? new Refusal(
                    RefusalKind.Unreadable,
                    $"{packs.Faults.Count} {(packs.Faults.Count == 1 ? "fault" : "faults")}; nothing was taken. The first: {packs.Faults[0].What}",
                    $"{packs.Faults[0].File} {packs.Faults[0].At}",
                    "Every fault mended; the catalogue in force stays in use until then."
                )
            : null;
        if (refusal is null)
            return false;
        context.Response.StatusCode = Status(refusal.Kind);
        var problem = From(refusal);
        if (exception is CsvRefusedException { Faults: var faults })
            problem.Extensions["faults"] = faults;
        if (exception is PackFaultsException { Faults: var found })
            problem.Extensions["faults"] = found.Select(f => new CatalogueFault(f.File, f.At, f.What));
        if (exception is LayoutCollisionException collision)
        {
            problem.Extensions["collides"] = collision.Collides;
            problem.Extensions["shortBytes"] = collision.ShortBytes;
        }
        if (exception is ForeignProbeException foreign)
        {
            problem.Extensions["mayBe"] =
                foreign.Sameness.Likeness == Likeness.Asked ? Numbers.Join(foreign.Sameness.Changed, "and") : null;
            problem.Extensions["whose"] = foreign.Whose;
        }
        if (AsksForPage(context))
        {
            context.Response.ContentType = "text/html; charset=utf-8";
            await context.Response.WriteAsync(Page(problem.Title!, refusal), cancellationToken);
            return true;
        }
        return await details.TryWriteAsync(
            new ProblemDetailsContext
            {
                HttpContext = context,
                Exception = exception,
                ProblemDetails = problem,
            }
        );
    }

    /// <summary>A link to a paper that is not to be had yet opens in a browser: a person reads the answer, and no program.</summary>
    private static bool AsksForPage(HttpContext context) =>
        context
            .Request.GetTypedHeaders()
            .Accept.Any(a => a.MediaType.Equals("text/html", StringComparison.OrdinalIgnoreCase));

    private static string Page(string title, Refusal refusal)
    {
        static string E(string text) => HtmlEncoder.Default.Encode(text);
        return $"<!doctype html><html lang=\"en\"><head><meta charset=\"utf-8\"><meta name=\"viewport\" content=\"width=device-width\"><title>{E(title)}</title><style>{PageStyle}</style></head><body><main><h1>{E(refusal.What)}</h1><p><span class=\"wanted\">What it wants:</span> {E(refusal.Wanted)}</p></main></body></html>";
    }

    private const string PageStyle =
        "@font-face{font-family:text;src:url(/fonts/text.woff2);font-weight:200 800}@font-face{font-family:name;src:url(/fonts/name.woff2);font-weight:200 800}body{font:18px/1.42 text,system-ui,sans-serif;color:#1c2b2d;background:#f4f1ea;margin:0}main{max-width:44rem;margin:3rem auto;padding:0 1.5rem}h1{font:bold 2rem/1.15 name,text,sans-serif;margin:0 0 1rem}.wanted{color:#566463}";

    /// <summary>
    /// The framework refuses some requests by a bare status, such as a form that is cut off: these too say what, where and
    /// what would be right.
    /// </summary>
    public static void Complete(ProblemDetailsContext context)
    {
        var problem = context.ProblemDetails;
        if (problem.Extensions.ContainsKey("wanted"))
            return;
        if (problem is HttpValidationProblemDetails { Errors: { Count: > 0 } errors })
        {
            // What the framework finds wrong in a body: the first of it speaks, all of it stands beside.
            var (name, says) = errors.First();
            Tell(
                problem,
                new Refusal(
                    RefusalKind.Invalid,
                    $"“{Camel(name)}” is missing or not as it has to be.",
                    Camel(name),
                    says[0]
                )
            );
            return;
        }
        var refusal = problem.Status switch
        {
            StatusCodes.Status413PayloadTooLarge => TooLarge,
            StatusCodes.Status400BadRequest when context.HttpContext.Request.HasFormContentType => Cut,
            StatusCodes.Status400BadRequest => new(
                RefusalKind.Invalid,
                "The request cannot be read.",
                "request",
                WantedBody
            ),
            StatusCodes.Status429TooManyRequests => new(
                RefusalKind.Conflict,
                "Too many requests came from this address.",
                "address",
                "A minute of patience."
            ),
            StatusCodes.Status415UnsupportedMediaType => new(
                RefusalKind.Invalid,
                "A body of this kind is not taken here.",
                "Content-Type",
                WantedBody
            ),
            StatusCodes.Status405MethodNotAllowed or StatusCodes.Status404NotFound => new(
                RefusalKind.Missing,
                $"There is nothing at {context.HttpContext.Request.Path} for {context.HttpContext.Request.Method}.",
                context.HttpContext.Request.Path,
                "A path and method as /openapi/v1.json describes them."
            ),
            _ => null,
        };
        if (refusal is not null)
            Tell(problem, refusal);
    }

    private static void Tell(ProblemDetails problem, Refusal refusal)
    {
        problem.Title = Title(refusal.Kind);
        problem.Detail ??= refusal.What;
        problem.Extensions["where"] = refusal.Where;
        problem.Extensions["wanted"] = refusal.Wanted;
    }

    /// <summary>The name of a member as JSON has it: "Override.Reason" is <c>override.reason</c>.</summary>
    private static string Camel(string path) =>
        string.Join('.', path.Split('.').Select(JsonNamingPolicy.CamelCase.ConvertName));

    private static IEnumerable<Exception> Chain(Exception? exception)
    {
        for (; exception is not null; exception = exception.InnerException)
            yield return exception;
    }

    private static bool IsTooLarge(Exception exception) =>
        exception is BadHttpRequestException { StatusCode: StatusCodes.Status413PayloadTooLarge }
        || exception is InvalidDataException
            && exception.Message.Contains("length limit", StringComparison.OrdinalIgnoreCase);

    private static Refusal NoJson(JsonException json) =>
        new(
            RefusalKind.Invalid,
            "The body is no JSON of the form that is wanted.",
            string.IsNullOrEmpty(json.Path) ? "body" : json.Path,
            WantedBody
        );

    private static Refusal Unreadable(BadHttpRequestException bad) =>
        bad.InnerException is JsonException json ? NoJson(json)
        // Half of a surrogate pair, or an encoding that nobody uses any more.
        : Chain(bad.InnerException)
            .Any(e => e is InvalidOperationException or NotSupportedException or DecoderFallbackException)
            ? new(
                RefusalKind.Invalid,
                "The body holds a text that cannot be read.",
                "body",
                "JSON in UTF-8, of whole characters."
            )
        : Chain(bad.InnerException).Any(e => e is IOException or InvalidDataException) ? Cut
        : ParameterOf(bad.Message) is { } parameter
            ? new(
                RefusalKind.Invalid,
                $"“{parameter}” is missing, or not of the form that is wanted.",
                parameter,
                "A value as /openapi/v1.json describes it."
            )
        : new(RefusalKind.Invalid, "The request cannot be read.", "body", WantedBody);

    /// <summary>The parameter that the framework names where one is missing or cannot be read; null where it names none.</summary>
    private static string? ParameterOf(string message) =>
        Parameter().Match(message) is { Success: true } match ? match.Groups["name"].Value : null;

    [GeneratedRegex(
        "(?:parameter|bind parameter) \"(?:[\\w.?<>\\[\\]]+ )?(?<name>\\w+)\"",
        RegexOptions.ExplicitCapture
    )]
    private static partial Regex Parameter();

    private const string WantedBody = "A body as /openapi/v1.json describes it.";

    private static Refusal NoRoom { get; } =
        new(
            RefusalKind.Full,
            "The disk is full; nothing was changed.",
            "disk",
            "Room on the disk that holds the data folder: take away images that nobody needs, or files beside it; then try again."
        );

    private static Refusal Cut { get; } =
        new(
            RefusalKind.Invalid,
            "The form is cut off, or no multipart form.",
            "body",
            "The whole form; send it again."
        );

    private static Refusal TooLarge { get; } =
        new(
            RefusalKind.TooLarge,
            "The upload is larger than it may be.",
            "files",
            $"At most {IntakeEndpoints.LargestUpload >> 20} MiB in all."
        );

    private static ProblemDetails From(Refusal refusal) =>
        new()
        {
            Status = Status(refusal.Kind),
            Title = Title(refusal.Kind),
            Detail = refusal.What,
            Extensions = { ["where"] = refusal.Where, ["wanted"] = refusal.Wanted },
        };

    private static int Status(RefusalKind kind) =>
        kind switch
        {
            RefusalKind.Invalid => StatusCodes.Status400BadRequest,
            RefusalKind.Unreadable or RefusalKind.Impossible => StatusCodes.Status422UnprocessableEntity,
            RefusalKind.TooLarge => StatusCodes.Status413PayloadTooLarge,
            RefusalKind.Missing => StatusCodes.Status404NotFound,
            RefusalKind.Gone => StatusCodes.Status410Gone,
            RefusalKind.Full => StatusCodes.Status507InsufficientStorage,
            _ => StatusCodes.Status409Conflict,
        };

    private static string Title(RefusalKind kind) =>
        kind switch
        {
            RefusalKind.Invalid => "Not valid",
            RefusalKind.Unreadable => "Cannot be read",
            RefusalKind.Impossible => "Not possible",
            RefusalKind.TooLarge => "Too large",
            RefusalKind.Missing => "Not here",
            RefusalKind.Gone => "Over",
            RefusalKind.Full => "No room",
            _ => "In conflict with what stands",
        };
}
