using NodaTime;

namespace BrightCircle.Core.Community;

/// <summary>How two members stand who write to one another.</summary>
public enum ExchangeState
{
    /// <summary>One has asked with their first words, and the other hasn’t said anything.</summary>
    Asked,
    /// <summary>Both write.</summary>
    Open,
    /// <summary>One of them wants to hear nothing any more.</summary>
    Shut,
}

/// <summary>What two members who write to one another may do. The numbers are common practice: enough for people who talk, too little for somebody who
/// sells.</summary>
public static class ExchangeRules
{
    public const int MostAsk = 1000, MostAsksADay = 5, MostAnHour = 60;

    /// <summary>Somebody is written to so long after they could have read it here.</summary>
    public static readonly Duration TellAfter = Duration.FromMinutes(10);

    public static ExchangeState State(bool agreed, bool anyShut) => anyShut ? ExchangeState.Shut : agreed ? ExchangeState.Open : ExchangeState.Asked;

    /// <summary>What whoever asked sees of it: that the other said no stays with the other.</summary>
    /// <param name="shutByOther">The other wants to hear nothing.</param>
    public static ExchangeState Seen(bool agreed, bool shutByMe, bool shutByOther) => shutByOther && !shutByMe && !agreed ? ExchangeState.Asked
        : State(agreed, shutByMe || shutByOther);
}
