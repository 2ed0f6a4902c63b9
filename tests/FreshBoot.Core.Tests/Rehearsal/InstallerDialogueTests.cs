using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Rehearsal;

namespace FreshBoot.Core.Tests.Rehearsal;

/// <summary>What is typed at which question of an installer, and of a running system.</summary>
public class InstallerDialogueTests
{
    private static readonly DialogueFill Fill = new("2", "first\nsecond\n", "mr-0417", "user", "abcd2345");

    private static InstallerTalk Talk => Shipped.Catalogue.System("tessaly-5")!.Installer!.Talk!;

    private static string[] Typed(InstallerDialogue dialogue, params string[] heard) =>
        [.. heard.SelectMany(h => dialogue.Hear(h))];

    [Fact]
    public void A_layout_goes_in_line_by_line_each_when_the_one_before_was_taken()
    {
        var dialogue = new InstallerDialogue(Talk, Fill);
        dialogue.Hear("? drive: Which?\r\n").ShouldBe(["2"]);
        dialogue.Hear("? layout: the script\n").ShouldBe(["first"]);
        dialogue.Hear("+\n").ShouldBe(["second"]);
        dialogue.Hear("+\n").ShouldBe(["."]);
        dialogue.Hear("+\n").ShouldBeEmpty();
    }

    [Fact]
    public void At_the_prompt_of_a_running_system_other_words_go_in_one_by_one_and_then_none()
    {
        var upgrade = Talk.Upgrade!;
        var dialogue = new InstallerDialogue(Talk, Fill, upgrade.Prompt, [upgrade.Keep, upgrade.Off]);
        // A question comes in two pieces, as a serial line brings it.
        Typed(dialogue, "? wo", "rd: probe CODE or off\n").ShouldBe(["keep abcd2345"]);
        dialogue.Hear("? word: again\n").ShouldBe(["off"]);
        dialogue.Hear("? word: again\n").ShouldBeEmpty();
        dialogue.Unanswered.ShouldBeNull();
        // Its other questions are answered as ever.
        dialogue.Hear("? account: Who?\n").ShouldBe(["user"]);
    }

    [Fact]
    public void A_question_that_nobody_wrote_an_answer_for_is_left_standing_and_named()
    {
        var dialogue = new InstallerDialogue(Talk, Fill);
        dialogue.Hear("? holiday: Where to?\n").ShouldBeEmpty();
        dialogue.Unanswered.ShouldBe("holiday");
    }

    [Fact]
    public void Every_system_that_can_be_upgraded_in_a_twin_says_how_it_is_begun_and_how_one_sees_what_was_kept()
    {
        var talks = Shipped.Catalogue.Systems.Select(s => s.Installer?.Talk).OfType<InstallerTalk>().ToArray();
        talks.Count(t => t.Upgrade is not null).ShouldBeGreaterThan(2);
        foreach (var talk in talks.Where(t => t.Upgrade is not null))
        {
            talk.Typed.ShouldContainKey(talk.Upgrade!.Prompt);
            Fill.In(talk.Upgrade.Keep).ShouldContain(Fill.Code);
            Fill.In(talk.Upgrade.Kept).ShouldContain(Fill.Code);
            (talk.Upgrade.Turn is null).ShouldBe(talk.Upgrade.Turned is null);
        }
    }
}
