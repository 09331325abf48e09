using System.Text.Json;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Community;
using BrightCircle.Core.Content;
using BrightCircle.Core.Learning;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using Microsoft.AspNetCore.DataProtection.EntityFrameworkCore;
using Microsoft.AspNetCore.Identity.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.ChangeTracking;
using Microsoft.EntityFrameworkCore.Storage.ValueConversion;

namespace BrightCircle.Data;

/// <summary>The database of one site. Numbers come from one sequence (see <see cref="Ids"/>), names are snake_case.</summary>
public sealed class BrightContext(DbContextOptions<BrightContext> options) : IdentityUserContext<Account, long>(options), IDataProtectionKeyContext
{
    public DbSet<Site> Sites => Set<Site>();
    public DbSet<Plan> Plans => Set<Plan>();
    public DbSet<PromiseVersion> PromiseVersions => Set<PromiseVersion>();
    public DbSet<PromiseMove> PromiseMoves => Set<PromiseMove>();
    public DbSet<PiecePace> PiecePaces => Set<PiecePace>();
    public DbSet<Cohort> Cohorts => Set<Cohort>();
    public DbSet<CohortMember> CohortMembers => Set<CohortMember>();
    public DbSet<KeyLink> KeyLinks => Set<KeyLink>();
    public DbSet<GroupSeat> GroupSeats => Set<GroupSeat>();
    public DbSet<PeopleBatch> PeopleBatches => Set<PeopleBatch>();
    public DbSet<Price> Prices => Set<Price>();
    public DbSet<Shelf> Shelves => Set<Shelf>();
    public DbSet<Piece> Pieces => Set<Piece>();
    public DbSet<Module> Modules => Set<Module>();
    public DbSet<Lesson> Lessons => Set<Lesson>();
    public DbSet<LessonContent> LessonContents => Set<LessonContent>();
    public DbSet<LessonVersion> LessonVersions => Set<LessonVersion>();
    public DbSet<LessonPattern> LessonPatterns => Set<LessonPattern>();
    public DbSet<Editing> Editing => Set<Editing>();
    public DbSet<StoredFile> Files => Set<StoredFile>();
    public DbSet<FileUse> FileUses => Set<FileUse>();
    public DbSet<Upload> Uploads => Set<Upload>();
    public DbSet<SheetTry> SheetTries => Set<SheetTry>();
    public DbSet<SheetDraft> SheetDrafts => Set<SheetDraft>();
    public DbSet<FormEntry> FormEntries => Set<FormEntry>();
    public DbSet<Played> Played => Set<Played>();
    public DbSet<ImportRun> ImportRuns => Set<ImportRun>();
    public DbSet<Tally> Tallies => Set<Tally>();
    public DbSet<TallyMark> TallyMarks => Set<TallyMark>();
    public DbSet<Note> Notes => Set<Note>();
    public DbSet<Bookmark> Bookmarks => Set<Bookmark>();
    public DbSet<LessonQuestion> LessonQuestions => Set<LessonQuestion>();
    public DbSet<PiecePlace> PiecePlaces => Set<PiecePlace>();
    public DbSet<SitePage> SitePages => Set<SitePage>();
    public DbSet<DoorwayDay> DoorwayDays => Set<DoorwayDay>();
    public DbSet<SearchText> SearchTexts => Set<SearchText>();
    public DbSet<Edition> Editions => Set<Edition>();
    public DbSet<Member> Members => Set<Member>();
    public DbSet<Holding> Holdings => Set<Holding>();
    public DbSet<HoldingFact> HoldingFacts => Set<HoldingFact>();
    public DbSet<Opening> Openings => Set<Opening>();
    public DbSet<Deed> Deeds => Set<Deed>();
    public DbSet<JournalEntry> Journal => Set<JournalEntry>();
    public DbSet<StandingChange> StandingChanges => Set<StandingChange>();
    public DbSet<MonthBeginning> MonthBeginnings => Set<MonthBeginning>();
    public DbSet<StandingCount> StandingCounts => Set<StandingCount>();
    public DbSet<Payment> Payments => Set<Payment>();
    public DbSet<Refund> Refunds => Set<Refund>();
    public DbSet<LedgerEntry> Ledger => Set<LedgerEntry>();
    public DbSet<Card> Cards => Set<Card>();
    public DbSet<Checkout> Checkouts => Set<Checkout>();
    public DbSet<CheckoutSession> CheckoutSessions => Set<CheckoutSession>();
    public DbSet<Dispute> Disputes => Set<Dispute>();
    public DbSet<TermsText> TermsTexts => Set<TermsText>();
    public DbSet<PriceMove> PriceMoves => Set<PriceMove>();
    public DbSet<Coupon> Coupons => Set<Coupon>();
    public DbSet<CouponUse> CouponUses => Set<CouponUse>();
    public DbSet<ChargeAsk> ChargeAsks => Set<ChargeAsk>();
    public DbSet<PaymentToLookAt> PaymentsToLookAt => Set<PaymentToLookAt>();
    public DbSet<Tag> Tags => Set<Tag>();
    public DbSet<MemberTag> MemberTags => Set<MemberTag>();
    public DbSet<OwnField> OwnFields => Set<OwnField>();
    public DbSet<OwnFieldValue> OwnFieldValues => Set<OwnFieldValue>();
    public DbSet<TeamNote> TeamNotes => Set<TeamNote>();
    public DbSet<LastSeen> LastSeen => Set<LastSeen>();
    public DbSet<Audience> Audiences => Set<Audience>();
    public DbSet<SignInLink> SignInLinks => Set<SignInLink>();
    public DbSet<Letter> Letters => Set<Letter>();
    public DbSet<Mailing> Mailings => Set<Mailing>();
    public DbSet<LetterSeries> LetterSeries => Set<LetterSeries>();
    public DbSet<LetterText> LetterTexts => Set<LetterText>();
    public DbSet<SeriesRefusal> SeriesRefusals => Set<SeriesRefusal>();
    public DbSet<Core.Routines.Routine> Routines => Set<Core.Routines.Routine>();
    public DbSet<RoutineRun> RoutineRuns => Set<RoutineRun>();
    public DbSet<RoutineTrigger> RoutineTriggers => Set<RoutineTrigger>();
    public DbSet<RoutineDone> RoutineDone => Set<RoutineDone>();
    public DbSet<OutgoingCall> OutgoingCalls => Set<OutgoingCall>();
    public DbSet<OpenedLink> OpenedLinks => Set<OpenedLink>();
    public DbSet<TeamTask> TeamTasks => Set<TeamTask>();
    public DbSet<FirstStepSettled> FirstSteps => Set<FirstStepSettled>();
    public DbSet<SignIn> SignIns => Set<SignIn>();
    public DbSet<SecondStep> SecondSteps => Set<SecondStep>();
    public DbSet<Space> Spaces => Set<Space>();
    public DbSet<TalkThread> TalkThreads => Set<TalkThread>();
    public DbSet<TalkPost> TalkPosts => Set<TalkPost>();
    public DbSet<HourBooking> HourBookings => Set<HourBooking>();
    public DbSet<TalkPicture> TalkPictures => Set<TalkPicture>();
    public DbSet<TalkDraft> TalkDrafts => Set<TalkDraft>();
    public DbSet<PersonCard> PersonCards => Set<PersonCard>();
    public DbSet<PushDevice> PushDevices => Set<PushDevice>();
    public DbSet<PushNotice> PushNotices => Set<PushNotice>();
    public DbSet<Exchange> Exchanges => Set<Exchange>();
    public DbSet<ExchangePerson> ExchangePeople => Set<ExchangePerson>();
    public DbSet<ExchangeMessage> ExchangeMessages => Set<ExchangeMessage>();
    public DbSet<TalkVote> TalkVotes => Set<TalkVote>();
    public DbSet<TalkNod> TalkNods => Set<TalkNod>();
    public DbSet<TalkSeen> TalkSeen => Set<TalkSeen>();
    public DbSet<SpaceSeen> SpaceSeen => Set<SpaceSeen>();
    public DbSet<TalkReport> TalkReports => Set<TalkReport>();
    public DbSet<TalkBar> TalkBars => Set<TalkBar>();
    public DbSet<TalkFollow> TalkFollows => Set<TalkFollow>();
    public DbSet<SpaceTelling> SpaceTellings => Set<SpaceTelling>();
    public DbSet<Dialogue> Dialogues => Set<Dialogue>();
    public DbSet<Message> Messages => Set<Message>();
    public DbSet<SavedAnswer> SavedAnswers => Set<SavedAnswer>();
    public DbSet<Challenge> Challenges => Set<Challenge>();
    public DbSet<LiveSeries> LiveSeries => Set<LiveSeries>();
    public DbSet<LiveSession> LiveSessions => Set<LiveSession>();
    public DbSet<SessionPerson> SessionPeople => Set<SessionPerson>();
    public DbSet<SessionQuestion> SessionQuestions => Set<SessionQuestion>();
    public DbSet<DueWork> DueWork => Set<DueWork>();
    public DbSet<ClockMove> ClockMoves => Set<ClockMove>();
    public DbSet<DataProtectionKey> DataProtectionKeys => Set<DataProtectionKey>();

    /// <summary>The reader that stands at the answer to the next query, while <see cref="OneTrip"/> has asked ahead.</summary>
    internal Npgsql.NpgsqlDataReader? AtHand { get; set; }

    protected override void ConfigureConventions(ModelConfigurationBuilder conventions)
    {
        conventions.Properties<Enum>().HaveConversion<string>().HaveMaxLength(40);
        conventions.Properties<Currency>().HaveConversion<CurrencyConverter>().HaveMaxLength(3).AreFixedLength();
        Id<MemberId>(); Id<PlanId>(); Id<PriceId>(); Id<HoldingId>(); Id<ShelfId>(); Id<PieceId>(); Id<EditionId>(); Id<PaymentId>();
        Id<ModuleId>(); Id<LessonId>(); Id<BlockId>(); Id<FileId>(); Id<TallyId>(); Id<CohortId>(); Id<SpaceId>(); Id<ChallengeId>(); Id<LiveSeriesId>();
        Id<LiveSessionId>();
        Id<TagId>(); Id<OwnFieldId>(); Id<AudienceId>();

        void Id<T>() where T : struct, ITypedId<T> => conventions.Properties<T>().HaveConversion<TypedIdConverter<T>>();
    }

    /// <summary>Receipts are numbered as the last thing before they are written, so that the numbers of a year have no gap.</summary>
    public override async Task<int> SaveChangesAsync(bool acceptAllChangesOnSuccess, CancellationToken cancellationToken = default)
    {
        foreach (var year in ChangeTracker.Entries<Payment>()
            .Where(e => e.State == EntityState.Added && e.Entity is { ReceiptYear: not null, ReceiptNumber: null })
            .Select(e => e.Entity).GroupBy(p => p.ReceiptYear!.Value).OrderBy(g => g.Key))
        {
            if (Database.CurrentTransaction is null) throw new InvalidOperationException("A receipt is numbered in the transaction that writes it.");
            var paid = year.OrderBy(p => p.At).ThenBy(p => p.Id.Value).ToArray();
            // The row stays locked until the commit: nobody takes a number that might be given back.
            var last = (await Database.SqlQuery<int>($"""
                insert into receipt_counters as c (year, last) values ({year.Key}, {paid.Length})
                on conflict (year) do update set last = c.last + excluded.last returning c.last as "Value"
                """).ToListAsync(cancellationToken))[0];
            for (var i = 0; i < paid.Length; i++) paid[i].ReceiptNumber = last - paid.Length + 1 + i;
        }
        // What changed was looked for above.
        var looks = ChangeTracker.AutoDetectChangesEnabled;
        ChangeTracker.AutoDetectChangesEnabled = false;
        try
        {
            return await base.SaveChangesAsync(acceptAllChangesOnSuccess, cancellationToken);
        }
        finally
        {
            ChangeTracker.AutoDetectChangesEnabled = looks;
        }
    }

    /// <summary>What the tracker knows of an entity, without looking first whether it changed: for many of them.</summary>
    public EntityState StateOf(object entity) => Known(entity).State;

    /// <summary>What a value of an entity was when it was read.</summary>
    public T Was<T>(object entity, string property) => (T)Known(entity).Property(property).OriginalValue!;

    EntityEntry Known(object entity)
    {
        var looks = ChangeTracker.AutoDetectChangesEnabled;
        ChangeTracker.AutoDetectChangesEnabled = false;
        try { return Entry(entity); }
        finally { ChangeTracker.AutoDetectChangesEnabled = looks; }
    }

    protected override void OnModelCreating(ModelBuilder b)
    {
        base.OnModelCreating(b);
        b.HasSequence<long>("ids").StartsAt(1000).IncrementsBy(Ids.Block);
        b.ApplyConfigurationsFromAssembly(typeof(BrightContext).Assembly);
        RefuseUnknownKinds(b);
    }

    /// <summary>Every column that holds a kind or a state takes only the words there are.</summary>
    static void RefuseUnknownKinds(ModelBuilder b)
    {
        foreach (var entity in b.Model.GetEntityTypes())
            foreach (var property in entity.GetProperties())
            {
                var kind = Nullable.GetUnderlyingType(property.ClrType) ?? property.ClrType;
                if (!kind.IsEnum || entity.GetTableName() is not { } table) continue;
                var column = property.GetColumnName();
                entity.AddCheckConstraint($"ck_{table}_{column}_known", $"\"{column}\" in ({string.Join(", ", Enum.GetNames(kind).Select(n => $"'{n}'"))})");
            }
    }

    sealed class CurrencyConverter() : ValueConverter<Currency, string>(c => c.Code, s => new(s));
    sealed class TypedIdConverter<T>() : ValueConverter<T, long>(id => id.Value, v => Make(v)) where T : struct, ITypedId<T>
    {
        static T Make(long value) => T.From(value);
    }

    internal static ValueConverter<T, string> Json<T>() =>
        new(v => JsonSerializer.Serialize(v, CoreJson.Options), s => JsonSerializer.Deserialize<T>(s, CoreJson.Options)!);

    /// <summary>Two values are the same if they are written the same. What nobody can change in place stands for itself; only of a dictionary a copy is
    /// kept, to see what was put in.</summary>
    internal static ValueComparer<T> JsonComparer<T>()
    {
        System.Linq.Expressions.Expression<Func<T, T>> copy = v =>
            JsonSerializer.Deserialize<T>(JsonSerializer.Serialize(v, CoreJson.Options), CoreJson.Options)!, itself = v => v;
        return new(
            (a, b) => ReferenceEquals(a, b) || JsonSerializer.Serialize(a, CoreJson.Options) == JsonSerializer.Serialize(b, CoreJson.Options),
            v => JsonSerializer.Serialize(v, CoreJson.Options).GetHashCode(StringComparison.Ordinal),
            typeof(System.Collections.IDictionary).IsAssignableFrom(typeof(T)) ? copy : itself);
    }
}
