using System.Text.Json.Serialization.Metadata;
using FreshBoot.Core.Dossiers;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.OpenApi;
using Microsoft.OpenApi;

namespace FreshBoot.Server.Hosting;

/// <summary>
/// The description of the API (OpenAPI 3.1) as it is served: each operation has an id, a part that it belongs to and a description, and
/// says what comes where something is refused. The tests hold every answer that they receive against it.
/// </summary>
internal static class Description
{
    private const string ProblemName = "ProblemDetails";
    private const string ProblemType = "application/problem+json";

    /// <summary>Sets it up.</summary>
    public static void Configure(OpenApiOptions options)
    {
        options.AddSchemaTransformer(DescribeFactValue);
        options.AddSchemaTransformer(DescribeProblem);
        options.AddOperationTransformer(DescribeOperation);
        options.AddDocumentTransformer(
            (document, _, _) =>
            {
                document.Info = new OpenApiInfo
                {
                    Title = "Fresh Boot",
                    Version = "1",
                    Description =
                        "What the workshop's pages and scripts ask of the server. Errors are Problem Details (RFC 9457) with the members where and wanted.",
                    License = new OpenApiLicense { Name = "MIT", Identifier = "MIT" },
                };
                document.Servers = [new OpenApiServer { Url = "/", Description = "This computer" }];
                document.Tags = new HashSet<OpenApiTag>(
                    document
                        .Paths.Keys.Select(PartOf)
                        .Distinct(StringComparer.Ordinal)
                        .Order(StringComparer.Ordinal)
                        .Select(part => new OpenApiTag
                        {
                            Name = part,
                            Description =
                                part == Bench ? "What a hand at a machine types." : $"What is asked under /api/{part}.",
                        })
                );
                return Task.CompletedTask;
            }
        );
    }

    /// <summary>What is served to machines on the bench network besides: plain addresses that a hand types.</summary>
    private const string Bench = "bench";

    private static string PartOf(string path) =>
        path.Split('/', StringSplitOptions.RemoveEmptyEntries) switch
        {
            ["api", var part, ..] => part,
            _ => Bench,
        };

    private static async Task DescribeOperation(
        OpenApiOperation operation,
        OpenApiOperationTransformerContext context,
        CancellationToken stop
    )
    {
        var path = $"/{context.Description.RelativePath}";
        operation.OperationId = IdOf(context.Description.HttpMethod ?? "get", path);
        operation.Description ??= $"{operation.Summary}.";
        operation.Tags = new HashSet<OpenApiTagReference> { new(PartOf(path), context.Document) };
        operation.Responses ??= [];
        // Whatever is refused, and for whatever reason, is told in one form.
        var problem = await context.GetOrCreateSchemaAsync(typeof(ProblemDetails), null, stop);
        context.Document?.AddComponent(ProblemName, problem);
        operation.Responses["default"] = new OpenApiResponse
        {
            Description = "It was refused, or failed; nothing was changed.",
            Content = new Dictionary<string, OpenApiMediaType>(StringComparer.Ordinal)
            {
                [ProblemType] = new() { Schema = new OpenApiSchemaReference(ProblemName, context.Document) },
                // The same on a page, where a person opened a paper.
                ["text/html"] = new() { Schema = new OpenApiSchema { Type = JsonSchemaType.String } },
            },
        };
    }

    /// <summary><c>GET /api/machines/{tag}/facts</c> becomes <c>getMachinesByTagFacts</c>.</summary>
    private static string IdOf(string method, string path) =>
        method.ToLowerInvariant()
        + string.Concat(
            (path.StartsWith("/api/", StringComparison.Ordinal) ? path[5..] : Bench + path)
                .Split('/', StringSplitOptions.RemoveEmptyEntries)
                .Select(part =>
                    part.StartsWith('{')
                        ? $"By{Capital(part.Trim('{', '}').Split(':')[0].TrimStart('*'))}"
                        : string.Concat(part.Split('-', '.').Select(Capital))
                )
        );

    private static string Capital(string word) => word.Length == 0 ? "" : char.ToUpperInvariant(word[0]) + word[1..];

    /// <summary>Problem Details as they come: members of the standard, where and wanted, and what some refusals add.</summary>
    private static Task DescribeProblem(
        OpenApiSchema schema,
        OpenApiSchemaTransformerContext context,
        CancellationToken stop
    )
    {
        if (context.JsonTypeInfo.Type != typeof(ProblemDetails))
            return Task.CompletedTask;
        schema.Properties ??= new Dictionary<string, IOpenApiSchema>(StringComparer.Ordinal);
        schema.Properties.Remove("extensions");
        foreach (var (name, about) in new[] { ("where", "What it is about."), ("wanted", "What would be right.") })
            schema.Properties[name] = new OpenApiSchema
            {
                Type = JsonSchemaType.String | JsonSchemaType.Null,
                Description = about,
            };
        schema.Required = new HashSet<string>(StringComparer.Ordinal) { "title", "status" };
        schema.AdditionalPropertiesAllowed = true;
        schema.AdditionalProperties = new OpenApiSchema();
        return Task.CompletedTask;
    }

    /// <summary>A fact's value is a string, a number or an array of strings; the generator cannot see that.</summary>
    private static Task DescribeFactValue(
        OpenApiSchema schema,
        OpenApiSchemaTransformerContext context,
        CancellationToken stop
    )
    {
        if (context.JsonTypeInfo.Type == typeof(FactValue))
        {
            schema.Type = null;
            schema.Properties = null;
            schema.OneOf =
            [
                new OpenApiSchema { Type = JsonSchemaType.String },
                new OpenApiSchema { Type = JsonSchemaType.Integer, Format = "int64" },
                new OpenApiSchema
                {
                    Type = JsonSchemaType.Array,
                    Items = new OpenApiSchema { Type = JsonSchemaType.String },
                },
            ];
        }
        else if (
            context.JsonTypeInfo.Type != typeof(ProblemDetails)
            && context.JsonTypeInfo.Kind == JsonTypeInfoKind.Object
            && schema.Properties is { Count: > 0 }
        )
        {
            // What the server writes it always writes; a null is said by the type.
            schema.Required ??= new HashSet<string>(StringComparer.Ordinal);
            foreach (var property in context.JsonTypeInfo.Properties.Where(p => p.Get is not null))
            {
                schema.Required.Add(property.Name);
                if (
                    !property.IsGetNullable
                    && schema.Properties.TryGetValue(property.Name, out var of)
                    && of is OpenApiSchema { Type: { } type } plain
                )
                    plain.Type = type & ~JsonSchemaType.Null;
            }
        }
        return Task.CompletedTask;
    }
}
