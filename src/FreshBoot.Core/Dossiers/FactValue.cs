using System.Text.Json;
using System.Text.Json.Serialization;

namespace FreshBoot.Core.Dossiers;

/// <summary>
/// The value of a fact: a text, a whole number in the unit of its key, or a set of words such as processor flags.
/// In JSON a string, a number or an array of strings.
/// </summary>
[JsonConverter(typeof(FactValueJson))]
public abstract record FactValue
{
    private FactValue() { }

    /// <summary>A text, or one of the choices of its key.</summary>
    public sealed record Text(string Value) : FactValue
    {
        // Compared thousands of times for a fleet: the kind is settled by the type, so the value decides.
        /// <inheritdoc/>
        public bool Equals(Text? other) => other is not null && Value == other.Value;

        /// <inheritdoc/>
        public override int GetHashCode() => StringComparer.Ordinal.GetHashCode(Value);

        /// <inheritdoc/>
        public override string ToString() => Value;
    }

    /// <summary>A whole number; the unit stands with the key in <see cref="FactRegistry"/>.</summary>
    public sealed record Whole(long Value) : FactValue
    {
        /// <inheritdoc/>
        public bool Equals(Whole? other) => other is not null && Value == other.Value;

        /// <inheritdoc/>
        public override int GetHashCode() => Value.GetHashCode();

        /// <inheritdoc/>
        public override string ToString() => Value.ToString();
    }

    /// <summary>A set of words; order does not count, so two readings of the same flags are equal.</summary>
    public sealed record Words : FactValue
    {
        private readonly HashSet<string> _set;

        /// <summary>Makes a set; words given twice count once.</summary>
        public Words(IEnumerable<string> words) => _set = new(words, StringComparer.Ordinal);

        /// <summary>The words in ordinal order.</summary>
        public IReadOnlyList<string> Sorted => [.. _set.Order(StringComparer.Ordinal)];

        /// <summary>How many words there are.</summary>
        public int Count => _set.Count;

        /// <summary>Whether <paramref name="word"/> is among them.</summary>
        public bool Has(string word) => _set.Contains(word);

        /// <inheritdoc/>
        public bool Equals(Words? other) => other is not null && _set.SetEquals(other._set);

        /// <inheritdoc/>
        public override int GetHashCode() =>
            _set.Aggregate(0, (hash, word) => hash ^ StringComparer.Ordinal.GetHashCode(word));

        /// <inheritdoc/>
        public override string ToString() => string.Join(' ', Sorted);
    }

    /// <summary>A text value.</summary>
    public static FactValue Of(string value) => new Text(value);

    /// <summary>A number in the unit of its key.</summary>
    public static FactValue Of(long value) => new Whole(value);

    /// <summary>A set of words.</summary>
    public static FactValue Of(IEnumerable<string> words) => new Words(words);
}

/// <summary>Writes and reads a <see cref="FactValue"/> as plain JSON.</summary>
internal sealed class FactValueJson : JsonConverter<FactValue>
{
    public override FactValue Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options)
    {
        switch (reader.TokenType)
        {
            case JsonTokenType.String:
                return FactValue.Of(reader.GetString()!);
            case JsonTokenType.Number when reader.TryGetInt64(out var number):
                return FactValue.Of(number);
            case JsonTokenType.StartArray:
                var words = new List<string>();
                while (reader.Read() && reader.TokenType == JsonTokenType.String)
                    words.Add(reader.GetString()!);
                if (reader.TokenType == JsonTokenType.EndArray)
                    return FactValue.Of(words);
                break;
        }
        throw new JsonException("A fact's value is a string, a whole number or an array of strings.");
    }

    public override void Write(Utf8JsonWriter writer, FactValue value, JsonSerializerOptions options)
    {
        switch (value)
        {
            case FactValue.Text text:
                writer.WriteStringValue(text.Value);
                break;
            case FactValue.Whole whole:
                writer.WriteNumberValue(whole.Value);
                break;
            case FactValue.Words words:
                writer.WriteStartArray();
                foreach (var word in words.Sorted)
                    writer.WriteStringValue(word);
                writer.WriteEndArray();
                break;
        }
    }
}
