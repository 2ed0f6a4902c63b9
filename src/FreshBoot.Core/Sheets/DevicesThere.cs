using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Routes;

namespace FreshBoot.Core.Sheets;

/// <summary>
/// Which devices a machine has once the plan is carried out, so that none is asked for that is not there: from its dossier, and from its
/// form where a dossier cannot tell. A camera that a probe does not name may be there under another name, so of a laptop it is one
/// question; of a tower it is none.
/// </summary>
/// <param name="There">Words for those that are there, as conditions of procedures name them.</param>
/// <param name="Unsure">Those of which nobody knows, as a text names them.</param>
public sealed record DevicesThere(IReadOnlyList<string> There, IReadOnlyList<string> Unsure)
{
    /// <summary>Every word that <see cref="There"/> may hold.</summary>
    public static IReadOnlyList<string> Words { get; } =
    [
        "speakers",
        "socket",
        "microphone",
        "camera",
        "wired",
        "wireless",
        "bluetooth",
        "touch",
        "touchpad",
        "mouse",
        "keyboard",
        "plugged",
        "functionKeys",
        "lid",
        "sleep",
        "secondScreen",
        "unsure",
    ];

    private const int MostNetworks = 4;

    /// <summary>The devices of a machine after a route.</summary>
    public static DevicesThere Of(IFacts facts, Route route, bool isBoard)
    {
        var after = route.After(facts);
        var chassis = isBoard ? "board" : facts.Word("identity.chassis");
        var isLaptop = chassis is null or "laptop" or "convertible";
        var isClosed = isLaptop || chassis is "tablet" or "all-in-one";
        var there = new List<string>();
        var unsure = new List<string>();
        void Say(string word, bool? isThere, string called)
        {
            if (isThere == true)
                there.Add(word);
            else if (isThere is null)
                unsure.Add(called);
        }

        if (isClosed)
            there.Add("speakers");
        else
            Say("socket", after.Word("audio.0.model") is null ? null : true, "sound");
        Say("microphone", chassis is null ? null : isClosed, "a microphone");
        Say("camera", Named("camera"), "a camera");
        var kinds = Enumerable
            .Range(0, MostNetworks)
            .Select(i => after.Word($"network.{i}.kind"))
            .OfType<string>()
            .ToArray();
        // A model whose kind the catalogue does not know may be either.
        var isOpen = kinds.Length == 0;
        Say(
            "wired",
            kinds.Contains("wired") ? true
                : isOpen ? null
                : false,
            "a network socket"
        );
        Say(
            "wireless",
            kinds.Contains("wireless") ? true
                : isOpen ? null
                : false,
            "a wireless network"
        );
        Say("bluetooth", Named("bluetooth"), "Bluetooth");
        Say("touch", after.Word("touch.0.model") is not null || chassis is "convertible" or "tablet", "");
        Say("touchpad", isLaptop, "");
        Say("mouse", !isLaptop && chassis != "tablet", "");
        Say("keyboard", isLaptop, "");
        Say("plugged", !isLaptop && chassis != "tablet", "");
        Say("functionKeys", isLaptop, "");
        Say("lid", isLaptop, "");
        Say("sleep", !isLaptop && chassis is not ("board" or "server"), "");
        Say("secondScreen", isLaptop || chassis == "tablet", "");
        if (unsure.Count > 0)
            there.Add("unsure");
        return new DevicesThere(there, unsure);

        bool? Named(string group) =>
            after.Word($"{group}.0.model") is not null ? true
            : isClosed ? null
            : false;
    }
}
