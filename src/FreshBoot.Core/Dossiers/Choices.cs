namespace FreshBoot.Core.Dossiers;

/// <summary>An answer to a question on which practitioners disagree.</summary>
/// <param name="Value">As stored.</param>
/// <param name="Meaning">In a few words.</param>
/// <param name="Consequence">What it brings and what it costs.</param>
public sealed record ChoiceAnswer(string Value, string Meaning, string Consequence);

/// <summary>A question on which practitioners disagree: the shop chooses, machine by machine.</summary>
/// <param name="Key">The fact key under which the answer stands in the dossier.</param>
/// <param name="Question">The question.</param>
/// <param name="Rung">The rung it belongs to.</param>
/// <param name="Answers">The schools.</param>
public sealed record Choice(string Key, string Question, Rung Rung, IReadOnlyList<ChoiceAnswer> Answers);

/// <summary>
/// The questions on which practitioners disagree. An answer either keeps routes out, or changes the steps and files of the
/// route that is taken; while nobody answers, neither happens.
/// </summary>
public static class Choices
{
    /// <summary>All questions, from the ones that choose the route to the ones that finish the work.</summary>
    public static IReadOnlyList<Choice> All { get; } =
    [
        Ask(
            "plan.rules",
            "Meet the rules or lift them",
            Rung.Setup,
            ("meet", "meet them", "Switches and parts; it stays supported, and costs what the parts cost."),
            (
                "lift",
                "lift them",
                "The installer, the identity or the firmware is changed; its maker answers for nothing."
            )
        ),
        Ask(
            "plan.system",
            "The big system or a light one",
            Rung.Use,
            ("big", "the big one", "The same programs, familiar; it asks for more."),
            ("light", "a light one", "Fast and updated; other programs, something to learn.")
        ),
        Ask(
            "plan.install",
            "Upgrade in place or install clean",
            Rung.Disk,
            (
                "inPlace",
                "in place",
                "Files and programs stay; wants the same language and edition, space, and a system that works."
            ),
            (
                "clean",
                "clean",
                "Runs smoother and carries no old faults; everything on the drive is lost, files come back from the backup."
            )
        ),
        Ask(
            "plan.image",
            "Whole image or trimmed image",
            Rung.Medium,
            (
                "whole",
                "whole, from the maker",
                "Nothing is missing; what is not wanted is removed afterwards with a script that can be read."
            ),
            (
                "trimmed",
                "trimmed by somebody",
                "Smaller and lighter; parts are missing, and one has to trust whoever cut it."
            )
        ),
        Ask(
            "plan.account",
            "Account",
            Rung.Use,
            (
                "local",
                "local",
                "Nothing leaves the machine; without a password until the owner sets one, which must not be forgotten."
            ),
            (
                "maker",
                "the maker’s",
                "The recovery key is kept and things follow the person; it is their own account, never one of the shop."
            )
        ),
        Ask(
            "plan.encryption",
            "Drive encryption",
            Rung.Use,
            ("on", "on", "A lost machine tells nothing. Without a TPM it asks for a passphrase at every start."),
            (
                "off",
                "off",
                "The shop can rescue files, a slow processor stays fast; whoever finds the machine can read it."
            )
        ),
        Ask(
            "plan.scheme",
            "Partition scheme",
            Rung.Disk,
            ("gpt", "GPT with UEFI", "Any size of drive, a backup of the table; wants UEFI."),
            ("mbr", "MBR with legacy boot", "Where the firmware has nothing else; ends at 2 TiB.")
        ),
        Ask(
            "plan.firmware",
            "Replacement firmware",
            Rung.Firmware,
            ("full", "full UEFI", "Any system starts; the maker’s own never again without the backup."),
            (
                "keep",
                "keep the maker’s, add legacy boot",
                "The way back stays open; small drives and light systems only."
            )
        ),
        Ask(
            "plan.loader",
            "Place of the loader",
            Rung.Disk,
            (
                "stick",
                "on the stick until the system is proved",
                "The drive stays clean if it fails; one more step at the end."
            ),
            (
                "disk",
                "on the internal disk at once",
                "Starts without the stick from the first day; a bad loader has to be dug out."
            )
        ),
        Ask(
            "plan.identity",
            "How much identity",
            Rung.Setup,
            ("least", "the board id only", "As little as possible is untrue; some services see the old model."),
            (
                "model",
                "model and board id",
                "Set-up programs see one machine that fits together; the serial number stays true."
            ),
            ("full", "model, serial and board id", "All of it fits together; more of it is made up.")
        ),
        Ask(
            "plan.port",
            "USB port",
            Rung.Medium,
            ("slow", "the slow port", "The fewest surprises in old firmware; copying takes longer."),
            ("fast", "the fast port", "Much quicker; some firmware does not start from it.")
        ),
        Ask(
            "plan.live",
            "Try first",
            Rung.Devices,
            (
                "try",
                "a live system before installing",
                "Mouse, screen, sound and network are seen before anything is erased; a slow stick gives a bad impression."
            ),
            ("install", "install at once", "Saves a quarter of an hour; faults show only afterwards.")
        ),
        Ask(
            "plan.disk",
            "Disk",
            Rung.Disk,
            ("guided", "the whole disk, guided", "Quick, and nothing to get wrong; nothing else stays on it."),
            (
                "byHand",
                "by hand",
                "System, swap and a home of its own, another system may stay; sizes have to be right."
            )
        ),
        Ask(
            "plan.updates",
            "Updates while installing",
            Rung.Upkeep,
            ("fetch", "fetch them", "Current at once; the build may be another than the one that was proved."),
            (
                "later",
                "refuse them, fetch afterwards",
                "Stays on the proved build until it runs; an hour later on the way."
            )
        ),
        Ask(
            "plan.privacy",
            "Being tracked",
            Rung.Use,
            ("any", "any system that works", "The widest choice."),
            (
                "noAccount",
                "no system that needs an account",
                "Nobody has to sign in; systems that insist on it are out."
            )
        ),
        Ask(
            "plan.menu",
            "Loader menu",
            Rung.Disk,
            ("shown", "shown", "Trouble can be looked for at every start."),
            ("hidden", "hidden", "The person never sees it; a key brings it back.")
        ),
    ];

    /// <summary>The answers as facts, so that they have a source, a time and a history like everything else.</summary>
    internal static IEnumerable<FactDefinition> Definitions =>
        All.Select(c => new FactDefinition(
            c.Key,
            c.Question,
            FactForm.Choice,
            null,
            null,
            null,
            [.. c.Answers.Select(a => new FactChoice(a.Value, a.Meaning))],
            c.Rung,
            "Choose it with the route.",
            1,
            Derived: false,
            Indexed: false,
            Ordered: false,
            Detail: true
        ));

    private static Choice Ask(
        string key,
        string question,
        Rung rung,
        params (string Value, string Meaning, string Consequence)[] answers
    ) => new(key, question, rung, [.. answers.Select(a => new ChoiceAnswer(a.Value, a.Meaning, a.Consequence))]);
}
