using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Release;

/// <summary>The letter to an organisation that still holds a machine.</summary>
public static class ReleaseLetter
{
    /// <summary>Writes it, with what is known; an unknown number is a blank to fill in, never a guess.</summary>
    /// <param name="facts">The dossier.</param>
    /// <param name="tag">The shop's tag.</param>
    /// <param name="shop">Who writes.</param>
    /// <param name="day">The day of the letter.</param>
    public static string Write(IFacts facts, string tag, string shop, DateOnly day)
    {
        string Known(string key) => facts.Word(key) ?? "________________";
        return $"""
            {shop}
            {day:d MMMM yyyy}

            To whoever looks after your organisation’s computers

            Please release a machine

            We were given this machine to make it ready for a new owner:

                Maker and model              {Known("identity.maker")} {Known("identity.model")}
                Serial number of the casing  {Known("identity.serial")}
                Serial number of the board   {Known("identity.boardSerial")}
                Our tag                      {tag}

            After a reset it asks for your organisation’s sign-in. We have stopped there.

            If it left your hands rightly, please take both serial numbers off your management and off any
            activation lock, and tell us when that is done. After a repair the two numbers may belong to
            different entries of your list: please look for each.

            If it should not have left you, please tell us, and we give it back.

            {shop}
            """;
    }
}
