namespace FreshBoot.Workshop.Emulation;

/// <summary>A loader that looks for one file and does what stands in it: enough to show that a medium starts.</summary>
internal static class SmallLoader
{
    private const string Modules =
        "part_msdos part_gpt ext2 fat search search_fs_file normal configfile serial terminal echo sleep halt test ls minicmd";

    /// <summary>Makes one.</summary>
    /// <param name="platform">As the loader's maker names it: <c>i386-pc</c>, <c>x86_64-efi</c>.</param>
    /// <param name="output">The file.</param>
    /// <param name="config">The file that it looks for, by its path on the medium.</param>
    /// <param name="more">Further modules, with spaces between; empty for none.</param>
    /// <param name="work">A folder for work under way.</param>
    /// <param name="stop">Stops it.</param>
    public static async Task MakeAsync(
        string platform,
        string output,
        string config,
        string more,
        string work,
        CancellationToken stop
    )
    {
        var early = Path.Combine(work, "early.cfg");
        await File.WriteAllTextAsync(
            early,
            $"search --no-floppy --set=root --file {config}\nconfigfile ($root){config}\n",
            stop
        );
        await Programs.DoneAsync(
            "grub-mkimage",
            [
                "-O",
                platform,
                "-p",
                Path.GetDirectoryName(config)!,
                "-c",
                early,
                "-o",
                output,
                .. Modules.Split(' '),
                .. more.Split(' ', StringSplitOptions.RemoveEmptyEntries),
            ],
            work,
            stop
        );
    }
}
