using System.Diagnostics;
using System.Text;
using FreshBoot.Formats.FileSystems;

namespace FreshBoot.Formats.Tests.FileSystems;

public class CpioArchiveTests
{
    [Theory]
    [InlineData("answers.cfg", "language en\n")]
    [InlineData("a", "")]
    [InlineData("four", "1234")]
    public void The_program_of_that_name_unpacks_the_same(string name, string text)
    {
        var folder = Directory.CreateTempSubdirectory().FullName;
        try
        {
            var archive = Path.Combine(folder, "archive");
            File.WriteAllBytes(archive, CpioArchive.Of(name, Encoding.UTF8.GetBytes(text)));
            using var cpio = Process.Start(
                new ProcessStartInfo("sh", ["-c", "cd \"$1\" && cpio -i --quiet < archive", "sh", folder])
                {
                    RedirectStandardError = true,
                    UseShellExecute = false,
                }
            )!;
            var said = cpio.StandardError.ReadToEnd();
            cpio.WaitForExit();
            cpio.ExitCode.ShouldBe(0, said);
            File.ReadAllText(Path.Combine(folder, name)).ShouldBe(text);
        }
        finally
        {
            Directory.Delete(folder, recursive: true);
        }
    }

    [Theory]
    [InlineData("")]
    [InlineData("..")]
    [InlineData("a/b")]
    [InlineData("a\0b")]
    public void A_name_that_leads_elsewhere_is_refused(string name) =>
        Should.Throw<FormatRefusedException>(() => CpioArchive.Of(name, [])).Where.ShouldBe("name");
}
