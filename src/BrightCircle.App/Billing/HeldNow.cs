using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>What somebody who holds a plan hears when they want it again.</summary>
public static class HeldNow
{
    /// <returns>Null where they don't hold it.</returns>
    public static string? Says(CatalogueSnapshot now, IEnumerable<Holding> holdings, PlanId plan, Instant at)
    {
        var name = now.PlanName(plan);
        foreach (var h in holdings)
        {
            if (h.PlanId != plan) continue;
            switch (h.StateAt(at))
            {
                case HoldingState.Active or HoldingState.Trial:
                    return $"You already hold {name}.";
                case HoldingState.Ending:
                    return $"You hold {name} until {now.Calendar.Date(h.LeavingAt(at)!.Value).ToString("d MMMM", now.Culture)}. To keep it, take your "
                        + $"leaving back on your account page.";
                case HoldingState.Grace:
                    return $"You hold {name}, and a payment is open. See to it on your account page, and everything goes on.";
                case HoldingState.NotYet:
                    return $"{name} waits for you: it begins on {now.Calendar.Date(h.StartsAt).ToString("d MMMM", now.Culture)}.";
                case HoldingState.Paused:
                    return $"You hold {name}, and it is paused. On your account page you can go on before the pause is over.";
                case HoldingState.Closed:
                    return $"You hold {name}, and an instalment is open. See to it on your account page, and it opens again at once.";
                case HoldingState.Over:
                    break;
            }
        }
        return null;
    }
}
