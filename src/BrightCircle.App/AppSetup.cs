using BrightCircle.App.Billing;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Clock;
using BrightCircle.App.Content;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.App.Files;
using BrightCircle.App.Learning;
using BrightCircle.App.Letters;
using BrightCircle.App.Members;
using BrightCircle.App.Offer;
using BrightCircle.App.Releases;
using BrightCircle.App.Rights;
using BrightCircle.App.Routines;
using BrightCircle.App.Running;
using BrightCircle.App.Settings;
using BrightCircle.Data;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.DataProtection.AuthenticatedEncryption;
using Microsoft.AspNetCore.Identity;
using Microsoft.Extensions.Configuration;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Http.Resilience;
using NodaTime;
using Polly;

namespace BrightCircle.App;

public static class AppSetup
{
    /// <summary>Registers what the product does. Settings: ConnectionStrings:Db, Site:Url, Till:*, Mail:*, Files:Folder.</summary>
    public static IServiceCollection AddBrightApp(this IServiceCollection services, IConfiguration settings)
    {
        services.AddBrightData(settings.GetConnectionString("Db") ?? throw new InvalidOperationException("The setting ConnectionStrings:Db is missing."));

        services.AddSingleton<IWallClock, WallClock>();
        services.AddSingleton<HouseClock>();
        services.AddSingleton<IClock>(s => s.GetRequiredService<HouseClock>());
        services.AddSingleton<Catalogue>();
        services.AddSingleton<Wake>();
        services.AddSingleton<RunDue>();
        services.AddSingleton<Insight.Waiting>();
        services.AddSingleton<MoveClock>();
        var folder = settings["Files:Folder"] ?? Path.Combine(Path.GetTempPath(), "bright-circle-files");
        var uploads = settings["Files:Uploads"] ?? Path.Combine(folder, "uploads");
        services.AddSingleton(new UploadFolder(uploads));
        services.AddSingleton<IFileStore>(_ => settings.GetSection("Files:S3").Get<S3Settings>() is { Bucket.Length: > 0 } s3 ? new S3FileStore(s3, uploads)
            : new FolderFileStore(folder));
        services.AddSingleton<IVirusScan>(_ => settings["Scan:Host"] is { Length: > 0 } host ? new StreamVirusScan(host, settings.GetValue("Scan:Port", 3310))
            : new NoVirusScan());
        services.AddSingleton<SavePicture>();
        services.AddSingleton<FileLinks>();
        services.AddSingleton<SiteIcon>();
        services.AddSingleton<LetterPictures>();
        services.AddScoped<KeepFiles>();
        services.AddScoped<FileList>();
        services.AddScoped<FileUsing>();
        services.AddScoped<Community.SaveSpace>();
        services.AddScoped<Community.SpacesOfCohorts>();
        services.AddScoped<Community.Talk>();
        services.AddScoped<Community.TalkPictures>();
        services.AddScoped<Community.DraftTalk>();
        services.AddScoped<Community.Mentions>();
        services.AddSingleton<Community.LiveTalk>();
        services.AddScoped<Community.KeepTalk>();
        services.AddScoped<Community.ReadTalk>();
        services.AddScoped<ProgressOfAll>();
        services.AddScoped<Community.FollowTalk>();
        services.AddScoped<Community.ReadPeople>();
        services.AddScoped<Community.Choosing>();
        services.AddScoped<Community.SavePersonCard>();
        services.AddScoped<Community.CareTalk>();
        services.AddScoped<Community.Correspond>();
        services.AddScoped<Community.Exchanges>();
        services.AddScoped<Community.ReadExchanges>();
        services.AddScoped<Community.Challenges>();
        services.AddScoped<Community.SaveSeries>();
        services.AddScoped<Community.PlanSessions>();
        services.AddScoped<Community.Attend>();
        services.AddScoped<Community.ReadSessions>();
        services.AddScoped<Community.KeepSession>();
        services.AddScoped<Community.SaveHours>();
        services.AddScoped<Community.BookHours>();

        services.AddSingleton(settings.GetSection("Site").Get<SiteAddress>() ?? new());
        services.AddSingleton(settings.GetSection("Mail").Get<MailSettings>() ?? new());
        services.AddSingleton(settings.GetSection("Names").Get<NamesSettings>() ?? new());
        services.AddSingleton<NameServers>();
        services.AddSingleton<IMailTransport, SmtpTransport>();
        services.AddSingleton<MailSigning>();
        services.AddScoped<SetUpSigning>();
        services.AddScoped<CheckMailLines>();
        services.AddScoped<ReturnedMail>();
        services.AddScoped<AnsweredMail>();
        services.AddSingleton<LetterTemplates>();
        services.AddSingleton<DeliverLetters>();
        services.AddSingleton<SignInTokens>();
        services.AddScoped<LetterModels>();

        var till = settings.GetSection("Till").Get<TillSettings>() ?? new();
        services.AddSingleton(till);
        services.AddHttpClient<IPaymentGateway, TillGateway>(http =>
        {
            if (till.Url.Length > 0) http.BaseAddress = new(till.Url);
        }).AddResilienceHandler("till", pipeline => pipeline
            // A service that is down is asked again after a while, not by every charge of a batch.
            .AddCircuitBreaker(new HttpCircuitBreakerStrategyOptions
            {
                MinimumThroughput = 20,
                FailureRatio = 0.9,
                SamplingDuration = TimeSpan.FromSeconds(30),
                BreakDuration = TimeSpan.FromSeconds(10)
            })
            // Only where no connection came about: what may have been heard is asked again by due work, under the same key.
            .AddRetry(new HttpRetryStrategyOptions
            {
                MaxRetryAttempts = 1,
                Delay = TimeSpan.FromMilliseconds(200),
                ShouldHandle = a => ValueTask.FromResult(a.Outcome.Exception is HttpRequestException { HttpRequestError: HttpRequestError.ConnectionError }),
            })
            .AddTimeout(TimeSpan.FromSeconds(till.TimeoutSeconds)));

        services.AddScoped<Books>();
        services.AddScoped<RefundPayment>();
        services.AddScoped<IDueHandler, RenewDue>();
        services.AddScoped<IDueHandler, LapseHolding>();
        services.AddScoped<IDueHandler, EndHolding>();
        services.AddScoped<IDueHandler, RefundDue>();
        services.AddScoped<IDueHandler, ChargebackDue>();
        services.AddScoped<IDueHandler, PromiseMoving>();
        services.AddScoped<IDueHandler, ReleaseEdition>();
        services.AddScoped<IDueHandler, ReleasePiece>();
        services.AddScoped<EditionReaders>();
        services.AddScoped<AnnounceEdition>();
        services.AddScoped<IDueHandler>(s => s.GetRequiredService<AnnounceEdition>());
        services.AddScoped<IDueHandler, PurgeTrash>();
        services.AddScoped<IDueHandler, Reindex>();

        services.AddSingleton<RichText>();
        services.AddScoped<IndexContent>();
        services.AddScoped<SaveShelf>();
        services.AddScoped<SavePiece>();
        services.AddScoped<SaveLesson>();
        services.AddScoped<OpenLesson>();
        services.AddScoped<LessonHistory>();
        services.AddScoped<LessonPatterns>();
        services.AddScoped<PieceChoices>();
        services.AddScoped<FilesToChoose>();
        services.AddScoped<OwnAccount>();
        services.AddScoped<FindReceipt>();
        services.AddScoped<EditingNow>();
        services.AddScoped<OutlineWork>();
        services.AddScoped<AddModule>();
        services.AddScoped<RenameModule>();
        services.AddScoped<AddLesson>();
        services.AddScoped<ReorderOutline>();
        services.AddScoped<MoveLessons>();
        services.AddScoped<DuplicateLesson>();
        services.AddScoped<DuplicateModule>();
        services.AddScoped<DuplicatePiece>();
        services.AddScoped<SplitLesson>();
        services.AddScoped<MergeLesson>();
        services.AddScoped<ChangeLessons>();
        services.AddScoped<Trash>();
        services.AddScoped<ReleaseContent>();
        services.AddSingleton<SearchContent>();
        services.AddSingleton<Feeds>();
        services.AddScoped<TakePart>();
        services.AddScoped<Tallies>();
        services.AddScoped<PiecePlaces>();
        services.AddScoped<AskAndAnswer>();
        services.AddScoped<MarkSheets>();
        services.AddScoped<ContentSettings>();
        services.AddSingleton<Epub>();
        services.AddScoped<ImportContent>();
        services.AddScoped<ExportContent>();
        services.AddSingleton<ImportJobs>();
        services.AddScoped<SavePlan>();
        services.AddScoped<SavePromise>();
        services.AddScoped<SavePace>();
        services.AddScoped<SaveWindows>();
        services.AddScoped<SaveDoorway>();
        services.AddScoped<SitePages>();
        services.AddScoped<SaveMenu>();
        services.AddScoped<WelcomeSettings>();
        services.AddSingleton<Insight.DoorwayCounts>();
        services.AddScoped<OnTheirWay>();
        services.AddScoped<Cohorts>();
        services.AddScoped<PromiseHistory>();
        services.AddScoped<MovePromise>();
        services.AddScoped<Access.WhatChanges>();
        services.AddScoped<AddPrice>();
        services.AddScoped<EditPrice>();
        services.AddScoped<SaveEdition>();
        services.AddScoped<SetUpSite>();
        services.AddScoped<Tell>();
        services.AddScoped<Deeds>();
        services.AddScoped<IListen, LettersListen>();
        services.AddScoped<IListen, OwnerListens>();
        services.AddScoped<OwnerLetter>();
        services.AddScoped<IDueHandler, OwnerNews>();
        services.AddScoped<IDueHandler, OwnerDay>();
        services.AddScoped<IDueHandler, SendVoucher>();
        services.AddScoped<Vouchers>();
        services.AddScoped<Memberships>();
        services.AddScoped<SettleAsks>();
        services.AddScoped<RecordCharge>();
        services.AddScoped<BeginJoin>();
        services.AddScoped<ReviewJoin>();
        services.AddScoped<GoToTill>();
        services.AddScoped<CompleteCheckout>();
        services.AddScoped<FulfilOrder>();
        services.AddScoped<ChooseOrder>();
        services.AddScoped<RememberedOrder>();
        services.AddScoped<FindOrder>();
        services.AddScoped<OrderList>();
        services.AddScoped<BankLines>();
        services.AddScoped<Disputes>();
        services.AddScoped<Payouts>();
        services.AddScoped<IDueHandler, DisputeDecided>();
        services.AddScoped<IDueHandler, CardExpiring>();
        services.AddScoped<IDueHandler, ForgetCard>();
        services.AddScoped<IDueHandler, Insight.CountMonth>();
        services.AddScoped<MoneySettings>();
        services.AddScoped<IDueHandler, ForgetOrders>();
        services.AddScoped<IDueHandler, RemindHalfWay>();
        services.AddScoped<IDueHandler, Community.SessionNear>();
        services.AddScoped<IDueHandler, Community.ForgetWords>();
        services.AddScoped<IDueHandler, Community.ForgetPicture>();
        services.AddScoped<IDueHandler, Community.HourNear>();
        services.AddScoped<IDueHandler, Community.ChallengeTurns>();
        services.AddScoped<IDueHandler, TellOfTalk>();
        services.AddScoped<IDueHandler, TellOfTalkAtOnce>();
        services.AddScoped<IDueHandler, TellOfWords>();
        services.AddScoped<IDueHandler, Community.SpacesOfEditions>();
        services.AddScoped<PlaceOrder>();
        services.AddScoped<ReceiveMoney>();
        services.AddScoped<WantPayment>();
        services.AddScoped<IDueHandler, ChaseOrder>();
        services.AddScoped<IDueHandler, AskTransfer>();
        services.AddScoped<UseCoupon>();
        services.AddScoped<Coupons>();
        services.AddScoped<ChargeNow>();
        services.AddScoped<ChangePlan>();
        services.AddScoped<PayRest>();
        services.AddScoped<PausePlan>();
        services.AddScoped<MovePrice>();
        services.AddScoped<IDueHandler, PriceMoving>();
        services.AddScoped<IDueHandler, EndPause>();
        services.AddScoped<IDueHandler, SettleDue>();
        services.AddScoped<LeavePlan>();
        services.AddScoped<StayWithPlan>();
        services.AddScoped<GivePlan>();
        services.AddScoped<PiecePass>();
        services.AddScoped<Grants>();
        services.AddScoped<IDueHandler, BeginHolding>();
        services.AddScoped<EndPlan>();
        services.AddScoped<WaiveOpen>();
        services.AddScoped<NoteChargeback>();
        services.AddScoped<LookAtPayment>();
        services.AddScoped<AddMember>();
        services.AddScoped<KeyLinks>();
        services.AddScoped<GroupSeats>();
        services.AddScoped<IDueHandler, EndSeats>();
        services.AddScoped<PeopleBatches>();
        services.AddScoped<IDueHandler, PeopleBatching>();
        services.AddScoped<CorrectMember>();
        services.AddScoped<MemberJournal>();
        services.AddScoped<GoLive>();
        services.AddScoped<LetterList>();
        services.AddScoped<SendLetterAgain>();
        services.AddScoped<SetLetterAside>();
        services.AddScoped<KnownAddress>();
        services.AddScoped<AccountLetters>();
        services.AddScoped<SignOutEverywhere>();
        services.AddScoped<OwnSettings>();
        services.AddScoped<TakeFirstSteps>();
        services.AddScoped<SignInByLink>();
        services.AddScoped<MemberList>();
        services.AddScoped<ConditionSql>();
        services.AddScoped<LetterAsSent>();
        services.AddScoped<ChangeLetter>();
        services.AddScoped<ShowHouseLetter>();
        services.AddScoped<SendTrial>();
        services.AddScoped<MailingReaders>();
        services.AddScoped<Mailings>();
        services.AddScoped<SendMailing>();
        services.AddScoped<ShowMailing>();
        services.AddScoped<SeriesOfLetters>();
        services.AddScoped<MailingText>();
        services.AddScoped<OpenedLinks>();
        services.AddScoped<IDueHandler, WriteMailing>();
        services.AddScoped<MailingCopies>();
        services.AddSingleton(settings.GetSection("Programs").Get<ProgramSettings>() ?? new());
        services.AddSingleton(settings.GetSection("Push").Get<PushSettings>() ?? new());
        AddOutsideClient(services, TellPrograms.Client, s => s.GetRequiredService<ProgramSettings>().Inside);
        AddOutsideClient(services, DeliverNotices.Client, s => s.GetRequiredService<PushSettings>().Inside);
        services.AddSingleton<PushKey>();
        services.AddScoped<PushDevices>();
        services.AddSingleton<DeliverNotices>();
        services.AddSingleton<ProgramKey>();
        services.AddScoped<MakeProgramKey>();
        services.AddScoped<HearProgram>();
        services.AddSingleton<TellPrograms>();
        services.AddScoped<ToldPrograms>();
        services.AddScoped<RunRoutines>();
        services.AddScoped<RoutineDeeds>();
        services.AddScoped<RoutineDays>();
        services.AddScoped<EditRoutine>();
        services.AddScoped<LookAtRoutines>();
        services.AddScoped<IDueHandler, RoutineHears>();
        services.AddScoped<IDueHandler, RoutineSteps>();
        services.AddScoped<IDueHandler, RoutineBegins>();
        services.AddScoped<IDueHandler, RoutineMorning>();
        services.AddScoped<IDueHandler, RoutineEditions>();
        services.AddScoped<TeamTasks>();
        services.AddScoped<Audiences>();
        services.AddScoped<MemberTags>();
        services.AddScoped<OwnFields>();
        services.AddScoped<TeamNotes>();
        services.AddSingleton<SeenMembers>();
        services.AddSingleton<SeenSignIns>();
        services.AddSingleton<IWrittenLater>(s => s.GetRequiredService<SeenSignIns>());
        services.AddScoped<SignIns>();
        services.AddScoped<Insight.MovedMembers>();
        services.AddSingleton<IWrittenLater>(s => s.GetRequiredService<SeenMembers>());
        services.AddSingleton<IWrittenLater>(s => s.GetRequiredService<Insight.DoorwayCounts>());
        services.AddScoped<MemberPageQuery>();
        services.AddScoped<PaymentList>();
        services.AddScoped<CompareBooks>();
        services.AddScoped<SubscriptionList>();
        services.AddScoped<Insight.Sales>();
        services.AddScoped<Insight.Arrivals>();
        services.AddScoped<Insight.Departures>();
        services.AddScoped<WayIn>();
        services.AddScoped<TeamAccounts>();
        services.AddScoped<MemberData>();
        services.AddScoped<ForgetMember>();
        services.AddScoped<MergeMembers>();
        services.AddScoped<ContactWays>();
        services.AddScoped<SecondSteps>();
        services.AddScoped<Insight.TodayQuery>();

        services.AddIdentityCore<Account>(o =>
        {
            o.User.RequireUniqueEmail = true;
            // PasswordRules says all there is to say.
            o.Password.RequiredLength = 1;
            o.Password.RequireDigit = o.Password.RequireLowercase = o.Password.RequireUppercase = o.Password.RequireNonAlphanumeric = false;
            o.Lockout.MaxFailedAccessAttempts = 8;
        }).AddPasswordValidator<PasswordRules>().AddEntityFrameworkStores<BrightContext>().AddDefaultTokenProviders();
        services.AddDataProtection().SetApplicationName("BrightCircle").PersistKeysToDbContext<BrightContext>().ProtectKeysBy(settings)
            // One pass for each cookie and form token, where the default makes two and several objects that have to be cleaned up.
            .UseCryptographicAlgorithms(new() { EncryptionAlgorithm = EncryptionAlgorithm.AES_256_GCM });
        return services;
    }

    /// <summary>A client for addresses that somebody typed: it goes out into the open, and nowhere else but to what it called.</summary>
    /// <param name="inside">Whether this machine and its own network may be called too.</param>
    static void AddOutsideClient(IServiceCollection services, string name, Func<IServiceProvider, bool> inside) =>
        services.AddHttpClient(name, http => http.Timeout = TimeSpan.FromSeconds(10)).ConfigurePrimaryHttpMessageHandler(s =>
        {
            var handler = new SocketsHttpHandler { AllowAutoRedirect = false, UseCookies = false, UseProxy = false };
            if (!inside(s)) handler.ConnectCallback = Outside.Connect;
            return handler;
        });
}
