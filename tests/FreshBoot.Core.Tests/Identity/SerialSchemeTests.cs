using System.Security.Cryptography;
using CsCheck;
using FreshBoot.Core.Identity;
using FreshBoot.Formats.Tests;

namespace FreshBoot.Core.Tests.Identity;

public class SerialSchemeTests
{
    private const string Signs = "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ";
    private static readonly Gen<string> Text = Pick.From([.. Signs]).Array[1, 20].Select(c => new string(c));

    /// <summary>The first is the example of a standard that uses the scheme (ISBT 128); the others were reckoned by powers of two.</summary>
    [Theory]
    [InlineData("G123498654321", 'H')]
    [InlineData("P8ABCDEFGH", '9')]
    [InlineData("S71234WXYZ", '8')]
    [InlineData("A12425GABC1234002", '5')]
    public void The_check_character_is_the_standards(string text, char check) =>
        SerialScheme.CheckCharacter(text).ShouldBe(check);

    [Fact]
    public void Every_single_error_and_every_swap_of_neighbours_shows() =>
        Text.Sample(text =>
        {
            var serial = text + SerialScheme.CheckCharacter(text);
            SerialScheme.Checks(serial).ShouldBeTrue();
            for (var i = 0; i < serial.Length; i++)
            {
                foreach (var other in i == serial.Length - 1 ? Signs + "*" : Signs)
                    if (other != serial[i])
                        SerialScheme.Checks(serial[..i] + other + serial[(i + 1)..]).ShouldBeFalse(serial);
                if (i + 1 < serial.Length && serial[i] != serial[i + 1])
                    SerialScheme
                        .Checks(serial[..i] + serial[i + 1] + serial[i] + serial[(i + 2)..])
                        .ShouldBeFalse(serial);
            }
        });

    [Fact]
    public void A_serial_is_made_of_the_random_bytes_alone_and_never_ends_in_a_star()
    {
        var made = Enumerable
            .Range(0, 10_000)
            .Select(_ => SerialScheme.Make("P8", RandomNumberGenerator.GetBytes(SerialScheme.RandomBytes)))
            .OfType<string>()
            .ToArray();

        made.Length.ShouldBeGreaterThan(5_000);
        made.ShouldAllBe(s => SerialScheme.Checks(s) && s.StartsWith("P8") && !s.Contains('*'));
        made.Distinct().Count().ShouldBe(made.Length);
        SerialScheme.Make("P8", [1, 2, 3, 4, 5, 6, 7, 255]).ShouldBeNull();
    }

    [Fact]
    public void Every_sign_comes_equally_often()
    {
        var counts = new int[256];
        for (var b = 0; b < 252; b++)
        for (var i = 0; i < SerialScheme.RandomBytes; i++)
        {
            var bytes = new byte[SerialScheme.RandomBytes];
            bytes[i] = (byte)b;
            if (SerialScheme.Make("X", bytes) is { } serial)
                counts[serial[1 + i]]++;
        }
        // Each sign stands for seven bytes at each place, but for the few whose check character were the star.
        Signs.ShouldAllBe(c => counts[c] >= 7 * (SerialScheme.RandomBytes - 1) || c == '0');
    }
}
