using BrightCircle.Core;
using BrightCircle.Core.Community;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace BrightCircle.Data
{
    /// <summary>One conversation in a space. Its first post is what it began with.</summary>
    public sealed class TalkThread
    {
        public const int MostTitle = 150, MostChoices = 8, MostChoice = 80;

        public long Id { get; init; }
        public SpaceId SpaceId { get; set; }
        public string Title { get; set; } = "";
        public Instant At { get; init; }
        /// <summary>When the last of its posts was written.</summary>
        public Instant LastAt { get; set; }
        /// <summary>Posts beside the first, those taken away too.</summary>
        public int Answers { get; set; }
        /// <summary>It stands first in its space.</summary>
        public Instant? PinnedAt { get; set; }
        /// <summary>Nobody but the team answers any more.</summary>
        public Instant? ClosedAt { get; set; }
        /// <summary>Taken away by the team, with all that is in it; the rows stay.</summary>
        public Instant? HiddenAt { get; set; }
        /// <summary>In a space of questions, the answer that helped.</summary>
        public long? HelpedId { get; set; }
        /// <summary>What can be chosen in it, where it asks for that; null for nothing.</summary>
        public IReadOnlyList<string>? Choices { get; set; }
        /// <summary>What was said in it stands in another thread now, and whoever comes here goes there.</summary>
        public long? MergedId { get; set; }
    }

    /// <summary>Something somebody wrote in a thread.</summary>
    public sealed class TalkPost
    {
        public const int MostBody = 20_000, KeptDays = 30;
        /// <summary>What is changed so soon after it was written isn’t said to be changed.</summary>
        public static readonly Duration QuietFor = Duration.FromMinutes(30);

        public long Id { get; init; }
        public long ThreadId { get; set; }
        /// <summary>What it answers within the thread: one level deep; null for what stands by itself.</summary>
        public long? AnswersId { get; set; }
        public bool IsFirst { get; set; }
        /// <summary>Null when whoever wrote it was deleted on request.</summary>
        public long? AccountId { get; init; }
        public string Name { get; init; } = "";
        public bool ByTeam { get; init; }
        /// <summary>Rich text as it is kept; empty when it was taken away by whoever wrote it.</summary>
        public string Body { get; set; } = "";
        /// <summary>What whoever wrote it took away: for the team only, for <see cref="KeptDays"/> days.</summary>
        public string? TakenBody { get; set; }
        /// <summary>When it came to stand: where it waited for the team, then.</summary>
        public Instant At { get; set; }
        public Instant? EditedAt { get; set; }
        /// <summary>Taken away: the place stays, the words don’t show.</summary>
        public Instant? GoneAt { get; set; }
        /// <summary>By the team, and not by whoever wrote it.</summary>
        public bool GoneByTeam { get; set; }
        /// <summary>It waits until the team has seen it, and is gone until then.</summary>
        public HoldReason? Held { get; set; }
    }

    /// <summary>A picture in a post or a message: as it is kept, nothing is left of what a camera writes into it. Or a file that goes with it, as it
    /// came.</summary>
    public sealed class TalkPicture
    {
        public const int Most = 6, MostAlt = 300, MostName = 120;
        /// <summary>One that came to stand nowhere goes after so long.</summary>
        public static readonly Duration WaitsFor = Duration.FromDays(1);

        public long Id { get; init; }
        public long? AccountId { get; init; }
        /// <summary>The post it stands in; or the message with the team; or what one member wrote to another. One of them at most, and none as long as what
        /// it belongs to isn’t sent.</summary>
        public long? PostId { get; set; }
        public long? MessageId { get; set; }
        public long? WordsId { get; set; }
        /// <summary>Among those of its post, from 0.</summary>
        public int Place { get; set; }
        /// <summary>In the file store, at the largest width; and at the smallest.</summary>
        public string Address { get; init; } = "";
        public string Small { get; init; } = "";
        /// <summary>Both 0 for a file.</summary>
        public int Width { get; init; }
        public int Height { get; init; }
        /// <summary>Of a file the name it came with; null for a picture.</summary>
        public string? FileName { get; init; }
        /// <summary>It is no picture, and only to be saved.</summary>
        public bool IsFile => FileName is not null;
        /// <summary>Of a file how large it is, in bytes.</summary>
        public long? Bytes { get; init; }
        /// <summary>What it shows, for whoever can’t see it; empty where nothing was said.</summary>
        public string Alt { get; set; } = "";
        public Instant At { get; init; }
    }

    /// <summary>A word of agreement: which of the space’s.</summary>
    public sealed class TalkNod
    {
        public long PostId { get; init; }
        public long AccountId { get; init; }
        /// <summary>The place of the word among the space’s, from 0.</summary>
        public int Word { get; init; }
        public Instant At { get; init; }
    }

    /// <summary>What somebody chose in a thread that asks for it.</summary>
    public sealed class TalkVote
    {
        public long ThreadId { get; init; }
        public long AccountId { get; init; }
        /// <summary>The place of what they chose among the thread’s choices, from 0.</summary>
        public int Choice { get; set; }
        public Instant At { get; set; }
    }

    /// <summary>What somebody began to write and hasn’t sent.</summary>
    public sealed class TalkDraft
    {
        /// <summary>So many are kept of one person; the oldest goes.</summary>
        public const int Most = 50, MostChoices = 2 * TalkThread.MostChoices * TalkThread.MostChoice;

        public long AccountId { get; init; }
        /// <summary>The thread it answers in, or the space it would begin one in: their numbers are of one kind.</summary>
        public long PlaceId { get; init; }
        public string Title { get; init; } = "";
        /// <summary>As it is typed.</summary>
        public string Body { get; init; } = "";
        /// <summary>What can be chosen in the thread it would begin, as it is typed.</summary>
        public string Choices { get; init; } = "";
        /// <summary>What it answers within the thread; null for the whole.</summary>
        public long? AnswersId { get; init; }
        public Instant At { get; init; }
    }

    /// <summary>How far somebody has read a thread.</summary>
    public sealed class TalkSeen
    {
        public long AccountId { get; init; }
        public long ThreadId { get; init; }
        public long PostId { get; set; }
        public Instant At { get; set; }
    }

    /// <summary>When somebody was in a space, this time and the time before.</summary>
    public sealed class SpaceSeen
    {
        public long AccountId { get; init; }
        public SpaceId SpaceId { get; init; }
        public Instant At { get; set; }
        public Instant? Before { get; set; }
    }
}

namespace BrightCircle.Data.Mapping
{
    sealed class TalkMapping : IEntityTypeConfiguration<Space>, IEntityTypeConfiguration<TalkThread>, IEntityTypeConfiguration<TalkPost>,
        IEntityTypeConfiguration<TalkNod>, IEntityTypeConfiguration<TalkSeen>, IEntityTypeConfiguration<SpaceSeen>, IEntityTypeConfiguration<TalkPicture>,
        IEntityTypeConfiguration<TalkDraft>, IEntityTypeConfiguration<TalkVote>
    {
        public void Configure(EntityTypeBuilder<Space> b)
        {
            b.ToTable("spaces");
            b.Property(s => s.Id).ValueGeneratedNever();
            b.Property(s => s.Name).HasMaxLength(Space.MostName);
            b.Property(s => s.Door).HasMaxLength(Space.MostDoor);
            b.Property(s => s.Manners).HasMaxLength(Space.MostManners);
            b.Property(s => s.Nods).HasColumnType("jsonb").HasConversion(BrightContext.Json<IReadOnlyList<string>>(),
                BrightContext.JsonComparer<IReadOnlyList<string>>());
            b.Property(s => s.HostIds).HasColumnType("jsonb").HasDefaultValueSql("'[]'").HasConversion(BrightContext.Json<IReadOnlyList<long>>(),
                BrightContext.JsonComparer<IReadOnlyList<long>>());
            b.HasOne<Core.Content.Piece>().WithMany().HasForeignKey(s => s.PieceId).OnDelete(DeleteBehavior.SetNull);
            b.HasOne<Space>().WithMany().HasForeignKey(s => s.LikeId).OnDelete(DeleteBehavior.Restrict);
            b.HasOne<Core.Content.Edition>().WithMany().HasForeignKey(s => s.EditionId).OnDelete(DeleteBehavior.SetNull);
            b.HasOne<Core.Offer.Cohort>().WithMany().HasForeignKey(s => s.CohortId).OnDelete(DeleteBehavior.SetNull);
            b.HasIndex(s => s.CohortId).IsUnique();
            b.HasIndex(s => s.Name).IsUnique();
            b.HasIndex(s => new { s.LikeId, s.EditionId }).IsUnique().HasFilter("like_id is not null and edition_id is not null");
        }

        public void Configure(EntityTypeBuilder<TalkThread> b)
        {
            b.ToTable("talk_threads");
            b.Property(t => t.Id).ValueGeneratedNever();
            b.Property(t => t.Title).HasMaxLength(TalkThread.MostTitle);
            b.Property(t => t.Choices).HasColumnType("jsonb").HasConversion(BrightContext.Json<IReadOnlyList<string>?>(),
                BrightContext.JsonComparer<IReadOnlyList<string>?>());
            b.HasOne<Space>().WithMany().HasForeignKey(t => t.SpaceId).OnDelete(DeleteBehavior.Restrict);
            b.HasOne<TalkThread>().WithMany().HasForeignKey(t => t.MergedId).OnDelete(DeleteBehavior.Cascade);
            b.HasIndex(t => new { t.SpaceId, t.LastAt });
            b.HasIndex(t => t.At);
        }

        public void Configure(EntityTypeBuilder<TalkPost> b)
        {
            b.ToTable("talk_posts");
            b.Property(p => p.Id).ValueGeneratedNever();
            b.Property(p => p.Name).HasMaxLength(120);
            b.Property(p => p.Body).HasMaxLength(TalkPost.MostBody);
            b.Property(p => p.TakenBody).HasMaxLength(TalkPost.MostBody);
            b.HasOne<TalkThread>().WithMany().HasForeignKey(p => p.ThreadId).OnDelete(DeleteBehavior.Cascade);
            b.HasOne<TalkPost>().WithMany().HasForeignKey(p => p.AnswersId).OnDelete(DeleteBehavior.Restrict);
            b.HasOne<Account>().WithMany().HasForeignKey(p => p.AccountId).OnDelete(DeleteBehavior.SetNull);
            b.HasIndex(p => new { p.ThreadId, p.Id });
            b.HasIndex(p => new { p.AccountId, p.At });
            b.HasIndex(p => p.Held).HasFilter("held is not null");
            // What a thread began with; and what was said lately, for who has gone quiet.
            b.HasIndex(p => p.ThreadId).HasFilter("is_first").HasDatabaseName("ix_talk_posts_first");
            b.HasIndex(p => p.At);
        }

        public void Configure(EntityTypeBuilder<TalkPicture> b)
        {
            b.ToTable("talk_pictures", t => t.HasCheckConstraint("ck_talk_pictures_place", "num_nonnulls(post_id, message_id, words_id) <= 1"));
            b.Property(p => p.Id).ValueGeneratedNever();
            b.Property(p => p.Address).HasMaxLength(64);
            b.Property(p => p.Small).HasMaxLength(64);
            b.Property(p => p.Alt).HasMaxLength(TalkPicture.MostAlt);
            b.Property(p => p.FileName).HasMaxLength(TalkPicture.MostName);
            b.HasOne<TalkPost>().WithMany().HasForeignKey(p => p.PostId).OnDelete(DeleteBehavior.Cascade);
            b.HasOne<Message>().WithMany().HasForeignKey(p => p.MessageId).OnDelete(DeleteBehavior.SetNull);
            b.HasOne<ExchangeMessage>().WithMany().HasForeignKey(p => p.WordsId).OnDelete(DeleteBehavior.SetNull);
            b.HasOne<Account>().WithMany().HasForeignKey(p => p.AccountId).OnDelete(DeleteBehavior.SetNull);
            b.HasIndex(p => new { p.PostId, p.Place });
            b.HasIndex(p => p.MessageId).HasFilter("message_id is not null");
            b.HasIndex(p => p.WordsId).HasFilter("words_id is not null");
            b.HasIndex(p => new { p.AccountId, p.At });
            b.HasIndex(p => p.Address);
        }

        public void Configure(EntityTypeBuilder<TalkNod> b)
        {
            b.ToTable("talk_nods");
            b.HasKey(n => new { n.PostId, n.AccountId, n.Word });
            b.HasOne<TalkPost>().WithMany().HasForeignKey(n => n.PostId).OnDelete(DeleteBehavior.Cascade);
            b.HasOne<Account>().WithMany().HasForeignKey(n => n.AccountId).OnDelete(DeleteBehavior.Cascade);
        }

        public void Configure(EntityTypeBuilder<TalkVote> b)
        {
            b.ToTable("talk_votes", t => t.HasCheckConstraint("ck_talk_votes_choice", "choice between 0 and 7"));
            b.HasKey(v => new { v.ThreadId, v.AccountId });
            b.HasOne<TalkThread>().WithMany().HasForeignKey(v => v.ThreadId).OnDelete(DeleteBehavior.Cascade);
            b.HasOne<Account>().WithMany().HasForeignKey(v => v.AccountId).OnDelete(DeleteBehavior.Cascade);
        }

        public void Configure(EntityTypeBuilder<TalkDraft> b)
        {
            b.ToTable("talk_drafts");
            b.HasKey(d => new { d.AccountId, d.PlaceId });
            b.Property(d => d.Title).HasMaxLength(TalkThread.MostTitle);
            b.Property(d => d.Body).HasMaxLength(TalkPost.MostBody);
            b.Property(d => d.Choices).HasMaxLength(TalkDraft.MostChoices).HasDefaultValue("");
            b.HasOne<Account>().WithMany().HasForeignKey(d => d.AccountId).OnDelete(DeleteBehavior.Cascade);
        }

        public void Configure(EntityTypeBuilder<TalkSeen> b)
        {
            b.ToTable("talk_seen");
            b.HasKey(s => new { s.AccountId, s.ThreadId });
            b.HasOne<TalkThread>().WithMany().HasForeignKey(s => s.ThreadId).OnDelete(DeleteBehavior.Cascade);
            b.HasOne<Account>().WithMany().HasForeignKey(s => s.AccountId).OnDelete(DeleteBehavior.Cascade);
        }

        public void Configure(EntityTypeBuilder<SpaceSeen> b)
        {
            b.ToTable("space_seen");
            b.HasKey(s => new { s.AccountId, s.SpaceId });
            b.HasOne<Space>().WithMany().HasForeignKey(s => s.SpaceId).OnDelete(DeleteBehavior.Cascade);
            b.HasOne<Account>().WithMany().HasForeignKey(s => s.AccountId).OnDelete(DeleteBehavior.Cascade);
        }
    }
}
