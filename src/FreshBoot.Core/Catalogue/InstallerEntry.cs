using System.Text.Json.Serialization;

namespace FreshBoot.Core.Catalogue;

/// <summary>What an installer says.</summary>
/// <param name="LetsIn">A text that stands where it lets a machine in.</param>
/// <param name="Refuses">A text that stands where it refuses.</param>
/// <param name="Reason">How a line begins that says why it refuses; null where it does not say.</param>
public sealed record InstallerWords(string LetsIn, string Refuses, string? Reason = null);

/// <summary>What a system's installer does with files that FAT32 cannot hold.</summary>
[JsonConverter(typeof(CamelCaseNames<LargeFiles>))]
public enum LargeFiles
{
    /// <summary>It reads them nowhere else.</summary>
    Whole,

    /// <summary>It reads them in parts, <c>name.001</c> and on.</summary>
    Parts,

    /// <summary>It looks for them in a second partition.</summary>
    SecondPartition,
}

/// <summary>What a system's installer says about its answer file.</summary>
/// <param name="Path">Where the file lies on the medium.</param>
/// <param name="AccountName">Pattern that the name of an account must follow.</param>
/// <param name="AccountRule">The same in words.</param>
/// <param name="Privacy">The privacy questions by id, with their words.</param>
public sealed record AnswerRules(
    string Path,
    string AccountName,
    string AccountRule,
    IReadOnlyDictionary<string, string> Privacy
);

/// <summary>A component of a system that can be left out.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">Its name.</param>
/// <param name="Needs">Ids of components that it needs.</param>
/// <param name="Breaks">What no longer works without it.</param>
/// <param name="SizeBytes">Space it takes, in bytes.</param>
/// <param name="MemoryMiB">Memory it takes while the system runs, in MiB.</param>
/// <param name="For">What people want it for: purposes, as orders name them.</param>
/// <param name="Fixed">Whether the system does not run without it.</param>
public sealed record SystemComponent(
    string Id,
    string Name,
    IReadOnlyList<string> Needs,
    string Breaks,
    long SizeBytes,
    int MemoryMiB,
    IReadOnlyList<string> For,
    bool Fixed
);

/// <summary>Something that is wrong with an installer or with what it installs, and what to do about it.</summary>
/// <param name="Build">The build that has it; null for every one.</param>
/// <param name="Sees">What one sees.</param>
/// <param name="Workaround">What to do then.</param>
/// <param name="Evidence">Where it is known from.</param>
public sealed record KnownDefect(string? Build, string Sees, string Workaround, Evidence Evidence);

/// <summary>
/// How one talks with an installer, and with the system that it leaves on the drive, by a serial line: which line is a question,
/// what is typed then, and which words mean how far it is. With it a whole installation can be walked in a twin.
/// </summary>
/// <param name="Question">How a line begins that asks something; the name of the question and a colon follow.</param>
/// <param name="Typed">
/// What is typed at each question, by its name. <c>{drive}</c>, <c>{layout}</c>, <c>{name}</c>, <c>{account}</c> and <c>{code}</c>
/// are filled in from the plan; several lines are typed where the plan has several.
/// </param>
/// <param name="Taken">What a line is that says "the line was taken" where several are typed; null where none says so.</param>
/// <param name="Stops">How a line begins that says why the installation stops.</param>
/// <param name="Installed">A text that stands where the installation is complete.</param>
/// <param name="Loader">A text that the loader on the drive says.</param>
/// <param name="FromDrive">A text that the system says first when it was started from the drive.</param>
/// <param name="Ready">A text that it says when its first start is over.</param>
/// <param name="Probed">A text that it says when the probe has run.</param>
public sealed record InstallerTalk(
    string Question,
    IReadOnlyDictionary<string, string> Typed,
    string? Taken,
    string Stops,
    string Installed,
    string Loader,
    string FromDrive,
    string Ready,
    string Probed
)
{
    /// <summary>How an upgrade in place is begun in the running system; null where nobody wrote it down.</summary>
    public UpgradeTalk? Upgrade { get; init; }
}

/// <summary>How an upgrade in place is begun in a running system, and how one sees what it kept.</summary>
/// <param name="Prompt">The question at which the running system takes these words.</param>
/// <param name="Keep">What puts a file of a person there, before; <c>{code}</c> is what stands in it.</param>
/// <param name="Off">What switches the machine off.</param>
/// <param name="Begin">What begins the upgrade that a medium in the machine carries.</param>
/// <param name="Look">What shows that file, afterwards.</param>
/// <param name="Kept">What is said then where it is still as it was; <c>{code}</c> is what stands in it.</param>
public sealed record UpgradeTalk(string Prompt, string Keep, string Off, string Begin, string Look, string Kept)
{
    /// <summary>What turns the table of its drive from MBR to GPT, typed at the same question; null where nobody wrote it down.</summary>
    public string? Turn { get; init; }

    /// <summary>What is said when the table was turned; null without <see cref="Turn"/>.</summary>
    public string? Turned { get; init; }
}

/// <summary>What is known of a system's installer.</summary>
/// <param name="Says">What it says where it lets a machine in, and where it refuses.</param>
/// <param name="LargeFiles">What it does with files that FAT32 cannot hold.</param>
/// <param name="Answers">The rules of its answer file; null where it reads none.</param>
public sealed record InstallerEntry(InstallerWords Says, LargeFiles LargeFiles, AnswerRules? Answers)
{
    /// <summary>How one talks with it by a serial line; null where nobody wrote it down.</summary>
    public InstallerTalk? Talk { get; init; }

    /// <summary>What is known to be wrong with it.</summary>
    public IReadOnlyList<KnownDefect> Defects { get; init; } = [];

    /// <summary>The defects of a build; where nobody knows the build, those of every one.</summary>
    public IEnumerable<KnownDefect> DefectsOf(string? build) => Defects.Where(d => d.Build is null || d.Build == build);
}
