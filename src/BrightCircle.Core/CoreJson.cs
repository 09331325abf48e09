using System.Text.Json;
using System.Text.Json.Serialization;
using BrightCircle.Core.Billing;

namespace BrightCircle.Core;

/// <summary>How promises and price terms are written as JSON. Changing it changes stored data.</summary>
public static class CoreJson
{
    public static JsonSerializerOptions Options { get; } = Make();

    static JsonSerializerOptions Make()
    {
        var o = new JsonSerializerOptions(JsonSerializerDefaults.Web) { DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull };
        o.Converters.Add(new CurrencyConverter());
        o.Converters.Add(new JsonStringEnumConverter(JsonNamingPolicy.CamelCase));
        o.MakeReadOnly(populateMissingResolver: true);
        return o;
    }

    sealed class CurrencyConverter : JsonConverter<Currency>
    {
        public override Currency Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options) => new(reader.GetString() ?? "");
        public override void Write(Utf8JsonWriter writer, Currency value, JsonSerializerOptions options) => writer.WriteStringValue(value.Code);
    }
}
