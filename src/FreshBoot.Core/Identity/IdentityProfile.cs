using System.Text.Json.Serialization;
using FreshBoot.Core.Catalogue;
using FreshBoot.Formats.Smbios;

namespace FreshBoot.Core.Identity;

/// <summary>How much of another identity a machine takes.</summary>
[JsonConverter(typeof(CamelCaseNames<IdentityLevel>))]
public enum IdentityLevel
{
    /// <summary>The name of the board alone.</summary>
    BoardId,

    /// <summary>Maker and model as well.</summary>
    Model,

    /// <summary>Serial number and id as well, both fresh.</summary>
    Full,

    /// <summary>Nothing but the name of the processor, which was shown wrongly.</summary>
    Processor,
}

/// <summary>What a level changes, opens and breaks.</summary>
/// <param name="Level">The level.</param>
/// <param name="Changes">What is untrue afterwards.</param>
/// <param name="Opens">What it opens.</param>
/// <param name="Breaks">What it breaks.</param>
public sealed record IdentityLevelWords(IdentityLevel Level, string Changes, string Opens, string Breaks);

/// <summary>The identity that a machine takes.</summary>
/// <param name="Level">How much of it.</param>
/// <param name="Maker">Maker of the donor.</param>
/// <param name="Model">Model of the donor.</param>
/// <param name="BoardId">Name of the donor's board.</param>
/// <param name="Serial">A fresh serial number with its check character; null where the machine keeps its own.</param>
/// <param name="Uuid">A fresh random UUID (RFC 9562, version 4); null where the machine keeps its own.</param>
/// <param name="Processor">The name of the processor; null where it stays.</param>
public sealed record IdentityProfile(
    IdentityLevel Level,
    string? Maker,
    string? Model,
    string? BoardId,
    string? Serial,
    Guid? Uuid,
    string? Processor = null
)
{
    /// <summary>What each level changes, opens and breaks, the least first.</summary>
    public static IReadOnlyList<IdentityLevelWords> Levels { get; } =
    [
        new(
            IdentityLevel.BoardId,
            "the name of the board",
            "Installers and updates that look at the board alone.",
            "Least of all: services and programs still see the model that it is."
        ),
        new(
            IdentityLevel.Model,
            "maker, model and the name of the board",
            "Installers, updates and set-up programs that look at the model.",
            "Power management and fans follow the donor’s tables; its own maker’s programs no longer know it."
        ),
        new(
            IdentityLevel.Full,
            "model, board, serial number and id",
            "Programs that want all of it to fit together.",
            "Services that look a serial number up refuse it, since its maker never gave it out. Warranty and whoever asks whose machine it is go by the true number: it stays on record here and on the casing."
        ),
    ];

    /// <summary>What is said before anybody takes an identity.</summary>
    public const string Caution =
        "For the owner’s own machine only. The maker’s terms may forbid it: the owner decides. It is not for registering with anybody’s services.";

    /// <summary>A fresh identity of a donor model.</summary>
    /// <param name="donor">The donor.</param>
    /// <param name="level">How much of it.</param>
    /// <param name="random">At least <see cref="RandomBytes"/> random bytes; serial number and id are made of them and of nothing else.</param>
    /// <returns>The identity; null where these bytes give no serial number that can be typed, and others are to be taken.</returns>
    public static IdentityProfile? Fresh(DonorModel donor, IdentityLevel level, ReadOnlySpan<byte> random)
    {
        var model = $"{donor.Line} {donor.Id}";
        if (level != IdentityLevel.Full)
            return new IdentityProfile(
                level,
                level == IdentityLevel.Model ? donor.Maker : null,
                level == IdentityLevel.Model ? model : null,
                donor.BoardId,
                null,
                null
            );
        if (SerialScheme.Make(donor.SerialPrefix, random) is not { } serial)
            return null;
        var uuid = random.Slice(SerialScheme.RandomBytes, 16).ToArray();
        uuid[6] = (byte)(uuid[6] & 0x0f | 0x40);
        uuid[8] = (byte)(uuid[8] & 0x3f | 0x80);
        return new IdentityProfile(level, donor.Maker, model, donor.BoardId, serial, new Guid(uuid, bigEndian: true));
    }

    /// <summary>Random bytes that an identity is made of.</summary>
    public const int RandomBytes = SerialScheme.RandomBytes + 16;

    /// <summary>
    /// What is set in the machine's own SMBIOS table (DSP0134, sections 7.2 to 7.5): of system, board and casing what the level
    /// says. The serial number of the board stays: by it the machine is known as this one afterwards.
    /// </summary>
    [JsonIgnore]
    public IReadOnlyList<SmbiosEdit> Edits
    {
        get
        {
            var edits = new List<SmbiosEdit>();
            if (BoardId is { } board)
                edits.Add(new SmbiosEdit(2, 0x05, board));
            if (Maker is { } maker)
                edits.AddRange(new SmbiosEdit[] { new(1, 0x04, maker), new(2, 0x04, maker), new(3, 0x04, maker) });
            if (Model is { } model)
            {
                edits.Add(new SmbiosEdit(1, 0x05, model));
                edits.Add(new SmbiosEdit(1, 0x1a, model.Split(' ')[0]));
            }
            if (Serial is { } serial)
            {
                edits.Add(new SmbiosEdit(1, 0x07, serial));
                edits.Add(new SmbiosEdit(3, 0x07, serial));
            }
            if (Uuid is { } uuid)
                // The first three fields are little-endian, as the specification has it since version 2.6.
                edits.Add(new SmbiosEdit(1, 0x08, null, uuid.ToByteArray()));
            if (Processor is { } processor)
                edits.Add(new SmbiosEdit(4, 0x10, processor));
            return edits;
        }
    }

    /// <summary>What a field of an SMBIOS structure is called.</summary>
    public static string FieldName(byte type, int offset) =>
        (type, offset) switch
        {
            (1, 0x04) => "Maker",
            (1, 0x05) => "Model",
            (1, 0x07) => "Serial number",
            (1, 0x08) => "Id (UUID)",
            (1, 0x1a) => "Line",
            (2, 0x04) => "Maker of the board",
            (2, 0x05) => "Board",
            (3, 0x04) => "Maker of the casing",
            (3, 0x07) => "Serial number of the casing",
            (4, 0x10) => "Processor",
            _ => string.Create(System.Globalization.CultureInfo.InvariantCulture, $"type {type}, offset {offset}"),
        };
}
