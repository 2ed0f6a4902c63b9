using System.Runtime.InteropServices;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Orders;

namespace FreshBoot.Core.Routes;

/// <summary>How long a route takes on a machine.</summary>
/// <param name="HandsOnMinutes">Minutes with hands on it.</param>
/// <param name="WaitMinutes">Minutes of waiting, with hands free.</param>
[StructLayout(LayoutKind.Auto)]
public readonly record struct RouteTimes(int HandsOnMinutes, int WaitMinutes);

/// <summary>Tells how long routes take, by the steps that a hand would take for them.</summary>
public interface IRouteTimes
{
    /// <summary>The times of a route on a machine for which nothing has been made ready yet.</summary>
    /// <param name="facts">The machine.</param>
    /// <param name="route">The route.</param>
    /// <param name="order">The order that it is for.</param>
    RouteTimes Of(IFacts facts, Route route, Order? order);
}
