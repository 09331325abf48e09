using System.Globalization;
using System.Text.Json;
using System.Text.Json.Serialization;

namespace BrightCircle.Core;

/// <summary>How promises and price terms are written as JSON. Changing it changes stored data.</summary>
public static class CoreJson
{
    public static JsonSerializerOptions Options { get; } = Make();

    static JsonSerializerOptions Make()
    {
        var o = new JsonSerializerOptions(JsonSerializerDefaults.Web)
        {
            DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
            AllowOutOfOrderMetadataProperties = true
        };
        o.Converters.Add(new CurrencyConverter());
        o.Converters.Add(new IdConverter<BlockId>());
        o.Converters.Add(new IdConverter<FileId>());
        o.Converters.Add(new IdConverter<TallyId>());
        o.Converters.Add(new IdConverter<SpaceId>());
        o.Converters.Add(new IdConverter<LiveSeriesId>());
        o.Converters.Add(new IdConverter<ChallengeId>());
        o.Converters.Add(new IdConverter<LiveSessionId>());
        o.Converters.Add(new IdConverter<ModuleId>());
        o.Converters.Add(new IdConverter<LessonId>());
        o.Converters.Add(new IdConverter<PieceId>());
        o.Converters.Add(new IdConverter<ShelfId>());
        o.Converters.Add(new IdConverter<PlanId>());
        o.Converters.Add(new IdConverter<PriceId>());
        o.Converters.Add(new IdConverter<HoldingId>());
        o.Converters.Add(new IdConverter<PaymentId>());
        o.Converters.Add(new IdConverter<CohortId>());
        o.Converters.Add(new IdConverter<EditionId>());
        o.Converters.Add(new IdConverter<TagId>());
        o.Converters.Add(new IdConverter<OwnFieldId>());
        o.Converters.Add(new IdConverter<AudienceId>());
        o.Converters.Add(new InstantConverter());
        o.Converters.Add(new LocalDateConverter());
        o.Converters.Add(new LocalDateTimeConverter());
        o.Converters.Add(new LocalTimeConverter());
        o.Converters.Add(new JsonStringEnumConverter(JsonNamingPolicy.CamelCase));
        o.MakeReadOnly(populateMissingResolver: true);
        return o;
    }

    /// <summary>Numbers of things stand as plain numbers.</summary>
    sealed class IdConverter<T> : JsonConverter<T> where T : struct, ITypedId<T>
    {
        public override T Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options)
        {
            if (reader.TokenType == JsonTokenType.Number) return T.From(reader.GetInt64());
            // As promises were written once: {"value": 5}.
            if (reader.TokenType != JsonTokenType.StartObject || !reader.Read() || !reader.ValueTextEquals("value") || !reader.Read())
                throw new JsonException("A number stands here.");
            var value = reader.GetInt64();
            if (!reader.Read() || reader.TokenType != JsonTokenType.EndObject) throw new JsonException("Only a number stands here.");
            return T.From(value);
        }
        public override void Write(Utf8JsonWriter writer, T value, JsonSerializerOptions options) => writer.WriteNumberValue(value.Value);
        public override T ReadAsPropertyName(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options) =>
            long.TryParse(reader.GetString(), CultureInfo.InvariantCulture, out var value) ? T.From(value) : throw new JsonException("A number stands here.");
        public override void WriteAsPropertyName(Utf8JsonWriter writer, T value, JsonSerializerOptions options) =>
            writer.WritePropertyName(value.Value.ToString(CultureInfo.InvariantCulture));
    }

    /// <summary>An instant in the form of ISO 8601, in UTC: 2026-12-03T19:30:00Z.</summary>
    sealed class InstantConverter : JsonConverter<NodaTime.Instant>
    {
        static readonly NodaTime.Text.InstantPattern Pattern = NodaTime.Text.InstantPattern.ExtendedIso;
        public override NodaTime.Instant Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options) =>
            Pattern.Parse(reader.GetString() ?? "") is { Success: true } parsed ? parsed.Value
                : throw new JsonException("A moment stands as 2026-12-03T19:30:00Z.");
        public override void Write(Utf8JsonWriter writer, NodaTime.Instant value, JsonSerializerOptions options) =>
            writer.WriteStringValue(Pattern.Format(value));
    }

    /// <summary>A local date and time in the form of ISO 8601, to the minute: 2026-12-03T19:30.</summary>
    sealed class LocalDateTimeConverter : JsonConverter<NodaTime.LocalDateTime>
    {
        static readonly NodaTime.Text.LocalDateTimePattern Pattern = NodaTime.Text.LocalDateTimePattern.CreateWithInvariantCulture("uuuu-MM-dd'T'HH:mm");
        public override NodaTime.LocalDateTime Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options) =>
            Pattern.Parse(reader.GetString() ?? "") is { Success: true } parsed ? parsed.Value
                : throw new JsonException("A date and time stands as 2026-12-03T19:30.");
        public override void Write(Utf8JsonWriter writer, NodaTime.LocalDateTime value, JsonSerializerOptions options) =>
            writer.WriteStringValue(Pattern.Format(value));
    }

    /// <summary>A time of day in the form of ISO 8601, to the minute: 09:00.</summary>
    sealed class LocalTimeConverter : JsonConverter<NodaTime.LocalTime>
    {
        static readonly NodaTime.Text.LocalTimePattern Pattern = NodaTime.Text.LocalTimePattern.CreateWithInvariantCulture("HH:mm");
        public override NodaTime.LocalTime Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options) =>
            Pattern.Parse(reader.GetString() ?? "") is { Success: true } parsed ? parsed.Value : throw new JsonException("A time stands as 09:00.");
        public override void Write(Utf8JsonWriter writer, NodaTime.LocalTime value, JsonSerializerOptions options) =>
            writer.WriteStringValue(Pattern.Format(value));
    }

    /// <summary>A day in the form of ISO 8601: 2026-12-03.</summary>
    sealed class LocalDateConverter : JsonConverter<NodaTime.LocalDate>
    {
        public override NodaTime.LocalDate Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options) =>
            NodaTime.Text.LocalDatePattern.Iso.Parse(reader.GetString() ?? "") is { Success: true } parsed ? parsed.Value
                : throw new JsonException("A day stands as 2026-12-03.");
        public override void Write(Utf8JsonWriter writer, NodaTime.LocalDate value, JsonSerializerOptions options) =>
            writer.WriteStringValue(NodaTime.Text.LocalDatePattern.Iso.Format(value));
    }

    sealed class CurrencyConverter : JsonConverter<Currency>
    {
        public override Currency Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options) => new(reader.GetString() ?? "");
        public override void Write(Utf8JsonWriter writer, Currency value, JsonSerializerOptions options) => writer.WriteStringValue(value.Code);
    }
}
