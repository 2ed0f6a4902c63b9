using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Conditions;

/// <summary>
/// A condition over the facts of a machine. Three-valued after Kleene: where a fact is missing, it is neither true nor
/// false unless the rest decides.
/// </summary>
public abstract record Condition
{
    private Condition() { }

    /// <summary>The fact keys that it looks at, in the order in which it names them.</summary>
    public abstract IEnumerable<string> Keys { get; }

    /// <summary>True, false, or null where a missing fact leaves it open.</summary>
    public abstract bool? Holds(IFacts facts);

    /// <summary>A number is at least so much, or an ordered choice stands at least so high.</summary>
    public sealed record AtLeast(string Fact, FactValue Least) : Condition
    {
        // The place of each choice is looked up once, so that judging compares two integers.
        private readonly IReadOnlyList<FactChoice> _choices = FactRegistry.Get(Fact).Choices;
        private readonly string? _bound = FactRegistry.Get(Fact).AtMost;

        // No system sees more memory than is fitted: what one saw is fitted at least.
        private readonly string? _least = FactRegistry.All.FirstOrDefault(d => d.AtMost == Fact)?.Key;

        /// <inheritdoc/>
        public override IEnumerable<string> Keys => [Fact];

        /// <inheritdoc/>
        public override bool? Holds(IFacts facts) =>
            (facts[Fact], Least) switch
            {
                // A fact that nobody measured may still be known to fall short.
                (null, FactValue.Whole least) when _bound is not null && facts.Number(_bound) < least.Value => false,
                (null, FactValue.Whole least) when _least is not null && facts.Number(_least) >= least.Value => true,
                (null, _) => null,
                (FactValue.Whole has, FactValue.Whole least) => has.Value >= least.Value,
                (FactValue.Text has, FactValue.Text least) => Place(has.Value) >= Place(least.Value),
                _ => null,
            };

        private int Place(string choice)
        {
            for (var i = 0; i < _choices.Count; i++)
                if (_choices[i].Value == choice)
                    return i;
            return -1;
        }
    }

    /// <summary>A fact has one of these values; some further values leave it open, such as "asked, no answer yet".</summary>
    public sealed record OneOf(string Fact, IReadOnlyList<FactValue> Values, IReadOnlyList<FactValue> Open) : Condition
    {
        private readonly FactValue[] _values = [.. Values];
        private readonly FactValue[] _open = [.. Open];

        /// <inheritdoc/>
        public override IEnumerable<string> Keys => [Fact];

        /// <inheritdoc/>
        public override bool? Holds(IFacts facts) =>
            facts[Fact] is not { } value || Among(_open, value) ? null : Among(_values, value);

        private static bool Among(FactValue[] values, FactValue value)
        {
            foreach (var one in values)
                if (one.Equals(value))
                    return true;
            return false;
        }
    }

    /// <summary>A set of words has all of these.</summary>
    public sealed record Has(string Fact, IReadOnlyList<string> Words) : Condition
    {
        /// <inheritdoc/>
        public override IEnumerable<string> Keys => [Fact];

        /// <inheritdoc/>
        public override bool? Holds(IFacts facts) => facts[Fact] is FactValue.Words has ? Words.All(has.Has) : null;
    }

    /// <summary>
    /// Every device of a group that the machine reports has a driver. It depends on the system, so it is judged by
    /// <see cref="Ladder.Evaluator"/>; on its own it is open.
    /// </summary>
    public sealed record Driven(string Group) : Condition
    {
        /// <inheritdoc/>
        public override IEnumerable<string> Keys => [$"{Group}.0.model"];

        /// <inheritdoc/>
        public override bool? Holds(IFacts facts) => null;
    }

    /// <summary>All of them: as bad as the worst.</summary>
    public sealed record All(IReadOnlyList<Condition> Of) : Condition
    {
        /// <inheritdoc/>
        public override IEnumerable<string> Keys => Of.SelectMany(c => c.Keys).Distinct();

        /// <inheritdoc/>
        public override bool? Holds(IFacts facts)
        {
            bool? result = true;
            foreach (var part in Of)
            {
                if (part.Holds(facts) is not { } holds)
                    result = null;
                else if (!holds)
                    return false;
            }
            return result;
        }
    }

    /// <summary>Any of them: as good as the best. <c>p unless q</c> in a pack is read as "p or q".</summary>
    public sealed record Any(IReadOnlyList<Condition> Of) : Condition
    {
        /// <inheritdoc/>
        public override IEnumerable<string> Keys => Of.SelectMany(c => c.Keys).Distinct();

        /// <inheritdoc/>
        public override bool? Holds(IFacts facts)
        {
            bool? result = false;
            foreach (var part in Of)
            {
                if (part.Holds(facts) is not { } holds)
                    result = null;
                else if (holds)
                    return true;
            }
            return result;
        }
    }

    /// <summary>The opposite; what is open stays open.</summary>
    public sealed record Not(Condition Of) : Condition
    {
        /// <inheritdoc/>
        public override IEnumerable<string> Keys => Of.Keys;

        /// <inheritdoc/>
        public override bool? Holds(IFacts facts) => !Of.Holds(facts);
    }
}
