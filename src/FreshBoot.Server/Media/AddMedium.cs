using System.Text.Json;
using FreshBoot.Core.Media;
using FreshBoot.Data.Media;
using FreshBoot.Server.Hosting;
using FreshBoot.Workshop.Media;

namespace FreshBoot.Server.Media;

/// <summary>Puts a medium on the shelf: a simulated one, or an image file for download.</summary>
internal sealed class AddMedium(MediumStore store, TimeProvider clock)
{
    private const long Smallest = 8L << 20;
    private const long Largest = 1L << 42;

    public async Task<MediumSheet> DoAsync(MediumIn medium, CancellationToken stop)
    {
        var size =
            MediumFacts.DiscBytes(medium.Kind) is > 0 and var disc ? disc
            : medium.Kind == MediumKind.File ? 0
            : medium.SizeBytes;
        if (medium.Kind is MediumKind.Stick or MediumKind.Card && size is < Smallest or > Largest)
            throw Refuse($"The size is {size} bytes.", "sizeBytes", "8 MiB to 4 TiB.");
        if (medium.UsbGeneration is < 1 or > 3)
            throw Refuse($"There is no USB {medium.UsbGeneration} here.", "usbGeneration", "1, 2 or 3.");
        if (medium.WriteBytesPerSecond < 1 || medium.ReadBytesPerSecond < 1)
            throw Refuse("A speed is below one byte a second.", "writeBytesPerSecond", "Bytes a second.");
        var row = await store.AddAsync(
            new MediumRow
            {
                Label = Given.Text(medium.Label, "label", 40),
                Kind = medium.Kind.ToString(),
                SizeBytes = size,
                UsbGeneration = medium.UsbGeneration,
                WriteBytesPerSecond = medium.WriteBytesPerSecond,
                ReadBytesPerSecond = medium.ReadBytesPerSecond,
                State = "blank",
                Says = "Nothing is on it that was written here.",
                Faults = JsonSerializer.Serialize(medium.Faults ?? new StickFaults(), JsonSerializerOptions.Web),
                At = clock.GetUtcNow(),
            },
            stop
        );
        return MediumSheet.Of(row, null, null);
    }

    private static RefusedException Refuse(string what, string where, string wanted) =>
        new(RefusalKind.Invalid, what, where, wanted);
}
