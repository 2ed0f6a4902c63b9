using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace FreshBoot.Core.Catalogue;

/// <summary>
/// Reads catalogue packs: first against the JSON Schema of packs (<see cref="PackForm"/>), then each entry by the reader of
/// its kind for what a schema cannot say, and at last, when all are read, what entries say of one another
/// (<see cref="PackLinks"/>).
/// </summary>
public static class PackReader
{
    /// <summary>Reads all packs together.</summary>
    /// <param name="schema">The text of <c>pack.schema.json</c>.</param>
    /// <param name="packs">File name and text of each pack, in the order in which they count.</param>
    /// <param name="fresh">What is edited or imported just now: support of it that has ended must say so.</param>
    /// <exception cref="PackFaultsException">One or more faults.</exception>
    public static ShopCatalogue Read(
        string schema,
        IReadOnlyList<(string File, string Text)> packs,
        Freshness? fresh = null
    )
    {
        var pass = new PackPass(fresh);
        var lists = new CatalogueLists();
        var taken = 0;
        foreach (var (file, text) in packs)
        {
            JsonNode? node;
            try
            {
                node = JsonNode.Parse(text);
            }
            catch (JsonException e)
            {
                pass.Faults.Add(
                    new PackFault(file, "", $"no JSON: line {e.LineNumber + 1}, place {e.BytePositionInLine + 1}")
                );
                continue;
            }
            if (!PackForm.Holds(schema, file, text, node, pass.Faults))
                continue;
            Take(new PackNode(pass, file, "", node!.AsObject()), lists);
            taken++;
        }
        // A payload may stand in another pack than the board that takes it.
        foreach (var board in lists.Boards)
            lists.Cures.AddRange(lists.Payloads.Where(p => board.Payloads.Contains(p.Id)).Select(board.CureBy));
        // Where a pack could not be taken, whatever names its entries would look like a fault too.
        if (taken == packs.Count)
            pass.Links.Check(lists);
        if (pass.Faults.Count > 0)
            throw new PackFaultsException(pass.Faults);
        return new ShopCatalogue(lists, Hash(packs));
    }

    private static void Take(PackNode pack, CatalogueLists lists)
    {
        lists.Systems.AddRange(pack.Each("systems").Select(SystemReader.Read));
        lists.Processors.AddRange(pack.Each("processors").Select(HardwareReader.Processor));
        lists.Devices.AddRange(pack.Each("devices").Select(HardwareReader.Device));
        lists.Cures.AddRange(pack.Each("cures").Select(CureReader.Read));
        lists.Donors.AddRange(pack.Each("donors").Select(HardwareReader.Donor));
        lists.Boards.AddRange(pack.Each("boards").Select(CureReader.Board));
        lists.Payloads.AddRange(pack.Each("payloads").Select(CureReader.Payload));
        lists.Adapters.AddRange(pack.Each("adapters").Select(HardwareReader.Adapter));
        lists.Components.AddRange(pack.Each("components").Select(KitReader.Component));
        lists.AfterPatches.AddRange(pack.Each("afterPatches").Select(KitReader.Patch));
        lists.Quirks.AddRange(pack.Each("quirks").Select(KitReader.Quirk));
        lists.Profiles.AddRange(pack.Each("profiles").Select(KitReader.Profile));
        lists.SmallBoards.AddRange(pack.Each("smallBoards").Select(SmallBoardReader.Read));
        lists.Models.AddRange(pack.Each("models").Select(HardwareReader.Model));
        lists.Programs.AddRange(pack.Each("programs").Select(ShopReader.Program));
        lists.Makers.AddRange(pack.Each("makers").Select(HardwareReader.Maker));
        lists.Prices.AddRange(pack.Each("prices").Select(ShopReader.Price));
        lists.Weights.AddRange(pack.Each("weights").Select(ShopReader.Weight));
        lists.Computers.AddRange(pack.Each("computers").Select(ShopReader.Computer));
        lists.Schools.AddRange(pack.Each("schools").Select(ShopReader.School));
        lists.Procedures.AddRange(pack.Each("procedures").Select(ProcedureReader.Read));
        lists.Causes.AddRange(pack.Each("causes").Select(CauseReader.Cause));
        lists.Checks.AddRange(pack.Each("checks").Select(CauseReader.Check));
        lists.Scenarios.AddRange(pack.Each("scenarios").Select(ScenarioReader.Read));
        lists.Memory.AddRange(pack.Each("memory").Select(HardwareReader.Module));
    }

    private static string Hash(IEnumerable<(string File, string Text)> packs)
    {
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        foreach (var (file, text) in packs)
            hash.AppendData(Encoding.UTF8.GetBytes($"{file}\n{text}\n"));
        return Convert.ToHexStringLower(hash.GetHashAndReset());
    }
}
