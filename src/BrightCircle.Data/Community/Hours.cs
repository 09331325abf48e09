using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Core.Members;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace BrightCircle.Data
{
    /// <summary>An hour that a member has with the host alone. That nobody is in two at once the database sees to.</summary>
    public sealed class HourBooking
    {
        public const int MostAbout = 500;

        public long Id { get; init; }
        public LiveSeriesId SeriesId { get; init; }
        /// <summary>Whose time it is.</summary>
        public long? HostId { get; init; }
        public MemberId MemberId { get; init; }
        public Instant StartsAt { get; set; }
        public Instant EndsAt { get; set; }
        /// <summary>When the host has time for the next one.</summary>
        public Instant FreeAt { get; set; }
        public string Place { get; init; } = "";
        /// <summary>What they want to talk about.</summary>
        public string About { get; init; } = "";
        public Instant At { get; init; }
        public Instant? CancelledAt { get; set; }
        /// <summary>How often it was moved or cancelled (RFC 5545, 3.8.7.4).</summary>
        public int Sequence { get; set; }
        public Instant? CameAt { get; set; }

        public int Minutes => (int)(EndsAt - StartsAt).TotalMinutes;
        public bool IsAhead(Instant at) => CancelledAt is null && at < StartsAt;
        /// <summary>As at any live session.</summary>
        public bool DoorIsOpen(Instant at) => CancelledAt is null && at >= StartsAt - LiveSession.DoorBefore && at < EndsAt;
    }
}

namespace BrightCircle.Data.Mapping
{
    sealed class HourMapping : IEntityTypeConfiguration<HourBooking>
    {
        public void Configure(EntityTypeBuilder<HourBooking> b)
        {
            b.ToTable("hour_bookings");
            b.Property(h => h.Id).ValueGeneratedNever();
            b.Property(h => h.Place).HasMaxLength(LiveSeries.MostPlace);
            b.Property(h => h.About).HasMaxLength(HourBooking.MostAbout);
            b.HasOne<LiveSeries>().WithMany().HasForeignKey(h => h.SeriesId).OnDelete(DeleteBehavior.Restrict);
            b.HasOne<Account>().WithMany().HasForeignKey(h => h.HostId).OnDelete(DeleteBehavior.SetNull);
            b.HasOne<Member>().WithMany().HasForeignKey(h => h.MemberId).OnDelete(DeleteBehavior.Cascade);
            b.HasIndex(h => new { h.MemberId, h.StartsAt });
            b.HasIndex(h => new { h.SeriesId, h.StartsAt });
            b.HasIndex(h => h.HostId);
        }
    }
}
