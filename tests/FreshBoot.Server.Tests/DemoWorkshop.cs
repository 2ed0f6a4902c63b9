namespace FreshBoot.Server.Tests;

/// <summary>The demo shop, seeded once for the tests of a class, which keep to machines of their own.</summary>
public sealed class DemoWorkshop : IDisposable
{
    /// <summary>The workshop.</summary>
    public TestWorkshop Workshop { get; } = new() { Demo = true };

    /// <summary>A client of it.</summary>
    public HttpClient Client { get; }

    /// <summary>Seeds it.</summary>
    public DemoWorkshop() => Client = Workshop.CreateClient();

    /// <inheritdoc/>
    public void Dispose()
    {
        Client.Dispose();
        Workshop.Dispose();
    }
}
