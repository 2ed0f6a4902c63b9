using FreshBoot.Core.Media;
using FreshBoot.Core.Preparation;
using FreshBoot.Data.Images;
using FreshBoot.Data.Media;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Jobs;
using FreshBoot.Workshop.Media;

namespace FreshBoot.Server.Media;

/// <summary>A medium that goes onto the shelf.</summary>
/// <param name="Label">What is written on it.</param>
/// <param name="Kind">What it is.</param>
/// <param name="SizeBytes">Size that it claims; of discs their type counts, of a file what is written to it.</param>
/// <param name="UsbGeneration">USB generation: 1, 2, 3.</param>
/// <param name="WriteBytesPerSecond">How fast it writes.</param>
/// <param name="ReadBytesPerSecond">How fast it reads.</param>
/// <param name="Faults">What is wrong with it, as a simulated one.</param>
internal sealed record MediumIn(
    [property: Line(40)] string Label,
    MediumKind Kind,
    long SizeBytes,
    int UsbGeneration = 3,
    long WriteBytesPerSecond = 20_000_000,
    long ReadBytesPerSecond = 90_000_000,
    StickFaults? Faults = null
);

/// <summary>A medium on the shelf.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Label">What is written on it.</param>
/// <param name="Kind">What it is.</param>
/// <param name="SizeBytes">Size that it claims.</param>
/// <param name="TrueBytes">Size that a test found; null while none was made.</param>
/// <param name="UsbGeneration">USB generation.</param>
/// <param name="WriteBytesPerSecond">How fast it writes.</param>
/// <param name="ReadBytesPerSecond">How fast it reads.</param>
/// <param name="State"><c>blank</c>, <c>writing</c>, <c>ready</c>, <c>unusable</c> or <c>unknown</c>.</param>
/// <param name="Says">Why.</param>
/// <param name="ImageId">The image on it.</param>
/// <param name="ImageName">Its name.</param>
/// <param name="VerifiedAt">When it was read back and found right.</param>
/// <param name="Job">The work under way on it; null for none.</param>
/// <param name="Simulated">What is not real about it, in a sentence; null where all of it is.</param>
/// <param name="ImageSha256">SHA-256 of the image on it, for whoever downloads that.</param>
internal sealed record MediumSheet(
    int Id,
    string Label,
    MediumKind Kind,
    long SizeBytes,
    long? TrueBytes,
    int UsbGeneration,
    long WriteBytesPerSecond,
    long ReadBytesPerSecond,
    string State,
    string Says,
    int? ImageId,
    string? ImageName,
    DateTimeOffset? VerifiedAt,
    JobSheet? Job,
    string? Simulated,
    string? ImageSha256
)
{
    /// <summary>A medium as its page shows it.</summary>
    public static MediumSheet Of(MediumRow m, StoredImage? image, JobSheet? job) =>
        new(
            m.Id,
            m.Label,
            Enum.Parse<MediumKind>(m.Kind),
            m.SizeBytes,
            m.TrueBytes,
            m.UsbGeneration,
            m.WriteBytesPerSecond,
            m.ReadBytesPerSecond,
            m.State,
            m.Says,
            m.ImageId,
            image?.Name,
            m.VerifiedAt,
            job,
            m.Kind == nameof(MediumKind.File) ? null : ShelfMedium.SimulatedSays,
            image?.Sha256
        );
}

/// <summary>What a plan is made for.</summary>
/// <param name="ImageId">The image.</param>
/// <param name="Tags">The machines that it is to serve; empty for any of 64-bit UEFI and BIOS that the image starts.</param>
/// <param name="LineBytesPerSecond">Speed of the line; 0 where the image is here.</param>
/// <param name="Port">USB generation of the port here; 3 if nothing is said.</param>
internal sealed record PlanIn(
    int ImageId,
    IReadOnlyList<string>? Tags = null,
    long LineBytesPerSecond = 0,
    int Port = 3
);

/// <summary>What is to be written.</summary>
/// <param name="ImageId">The image.</param>
/// <param name="Label">The label of the medium, typed by whoever erases it.</param>
/// <param name="By">Who writes it.</param>
/// <param name="Tags">The machines that it is to serve.</param>
/// <param name="Port">USB generation of the port here.</param>
internal sealed record WriteIn(
    int ImageId,
    string Label,
    [property: Line(60)] string By,
    IReadOnlyList<string>? Tags = null,
    int Port = 3
);

/// <summary>A test of a medium, which erases it.</summary>
/// <param name="Label">The label of the medium, typed by whoever erases it.</param>
/// <param name="By">Who tests it.</param>
internal sealed record CapacityIn(string Label, [property: Line(60)] string By);
