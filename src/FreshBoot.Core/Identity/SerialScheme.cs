namespace FreshBoot.Core.Identity;

/// <summary>
/// The shop's serial numbers: the donor's prefix, eight random signs and a check character of ISO/IEC 7064, MOD 37-2, by which
/// one wrong sign shows, and any two that changed places.
/// </summary>
public static class SerialScheme
{
    private const string Signs = "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ";
    private const int Length = 8;
    private const int Modulus = 37;

    /// <summary>Random bytes that a serial number is made of.</summary>
    public const int RandomBytes = Length;

    /// <summary>
    /// A serial number; null where a byte would make some signs more likely than others, or where the check character were the
    /// star of the standard, which not every program takes in a serial number. About one in three tries is passed over.
    /// </summary>
    public static string? Make(string prefix, ReadOnlySpan<byte> random)
    {
        var body = new char[Length];
        for (var i = 0; i < Length; i++)
        {
            // 252 is the largest multiple of 36 in a byte.
            if (random[i] >= 252)
                return null;
            body[i] = Signs[random[i] % Signs.Length];
        }
        var text = prefix + new string(body);
        return CheckCharacter(text) is var check and not '*' ? text + check : null;
    }

    /// <summary>The check character of ISO/IEC 7064, MOD 37-2; a star stands for 36.</summary>
    /// <param name="text">Digits and capital letters.</param>
    /// <exception cref="ArgumentException">It has other signs.</exception>
    public static char CheckCharacter(string text)
    {
        var check = (Modulus + 1 - Sum(text)) % Modulus;
        return check == 36 ? '*' : Signs[check];
    }

    /// <summary>Whether a serial number ends in its right check character.</summary>
    public static bool Checks(string serial) =>
        serial.Length > 1 && serial[..^1].All(Signs.Contains) && CheckCharacter(serial[..^1]) == serial[^1];

    /// <summary>The pure system of section 6: each sign weighs twice as much as the one behind it.</summary>
    private static int Sum(string text)
    {
        var sum = 0;
        foreach (var c in text)
        {
            var value = Signs.IndexOf(c, StringComparison.Ordinal);
            if (value < 0)
                throw new ArgumentException($"“{c}” is no digit and no capital letter.", nameof(text));
            sum = (sum + value) * 2 % Modulus;
        }
        return sum;
    }
}
