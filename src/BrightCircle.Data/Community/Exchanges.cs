using BrightCircle.Core;
using BrightCircle.Core.Members;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace BrightCircle.Data
{
    /// <summary>What two members write to one another. It begins with one who asks, and goes on once the other agrees.</summary>
    public sealed class Exchange
    {
        public long Id { get; init; }
        public Instant AskedAt { get; init; }
        public Instant? AgreedAt { get; set; }
        public Instant LastAt { get; set; }
        /// <summary>Who wrote last; null when they were deleted.</summary>
        public MemberId? LastById { get; set; }
    }

    /// <summary>One of the two.</summary>
    public sealed class ExchangePerson
    {
        public long ExchangeId { get; init; }
        public MemberId MemberId { get; init; }
        /// <summary>They asked.</summary>
        public bool Asked { get; init; }
        /// <summary>They want to hear nothing any more.</summary>
        public Instant? ShutAt { get; set; }
        /// <summary>When they were in it last.</summary>
        public Instant? SeenAt { get; set; }
    }

    public sealed class ExchangeMessage
    {
        public const int MostBody = 20_000;

        public long Id { get; init; }
        public long ExchangeId { get; init; }
        /// <summary>Who wrote it; null when they were deleted.</summary>
        public MemberId? MemberId { get; init; }
        /// <summary>Rich text as it is kept; empty when whoever wrote it was deleted.</summary>
        public string Body { get; init; } = "";
        public Instant At { get; init; }
    }
}

namespace BrightCircle.Data.Mapping
{
    sealed class ExchangeMapping : IEntityTypeConfiguration<Exchange>, IEntityTypeConfiguration<ExchangePerson>, IEntityTypeConfiguration<ExchangeMessage>
    {
        public void Configure(EntityTypeBuilder<Exchange> b)
        {
            b.ToTable("exchanges");
            b.Property(e => e.Id).ValueGeneratedNever();
            b.HasOne<Member>().WithMany().HasForeignKey(e => e.LastById).OnDelete(DeleteBehavior.SetNull);
        }

        public void Configure(EntityTypeBuilder<ExchangePerson> b)
        {
            b.ToTable("exchange_people");
            b.HasKey(p => new { p.ExchangeId, p.MemberId });
            b.HasOne<Exchange>().WithMany().HasForeignKey(p => p.ExchangeId).OnDelete(DeleteBehavior.Cascade);
            b.HasOne<Member>().WithMany().HasForeignKey(p => p.MemberId).OnDelete(DeleteBehavior.Cascade);
            b.HasIndex(p => p.MemberId);
        }

        public void Configure(EntityTypeBuilder<ExchangeMessage> b)
        {
            b.ToTable("exchange_messages");
            b.Property(m => m.Id).ValueGeneratedNever();
            b.Property(m => m.Body).HasMaxLength(ExchangeMessage.MostBody);
            b.HasOne<Exchange>().WithMany().HasForeignKey(m => m.ExchangeId).OnDelete(DeleteBehavior.Cascade);
            b.HasOne<Member>().WithMany().HasForeignKey(m => m.MemberId).OnDelete(DeleteBehavior.SetNull);
            b.HasIndex(m => new { m.ExchangeId, m.Id });
            b.HasIndex(m => new { m.MemberId, m.At });
        }
    }
}
