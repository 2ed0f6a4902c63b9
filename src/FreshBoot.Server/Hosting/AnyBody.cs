using Microsoft.OpenApi;

namespace FreshBoot.Server.Hosting;

/// <summary>Describes a body that a handler reads itself.</summary>
internal static class AnyBody
{
    /// <summary>
    /// Says in the API description what the body holds. Unlike <c>Accepts</c> it turns nobody away: scripts send files under
    /// whatever media type their program happens to use, and the content is what counts.
    /// </summary>
    public static RouteHandlerBuilder TakesBody(this RouteHandlerBuilder endpoint, string mediaType, string holds) =>
        endpoint.AddOpenApiOperationTransformer(
            (operation, _, _) =>
            {
                operation.RequestBody = new OpenApiRequestBody
                {
                    Description = holds,
                    Required = true,
                    Content = new Dictionary<string, OpenApiMediaType>(StringComparer.Ordinal)
                    {
                        [mediaType] = new() { Schema = new OpenApiSchema { Type = JsonSchemaType.String } },
                    },
                };
                return Task.CompletedTask;
            }
        );
}
