using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace BrightCircle.Data
{
    /// <summary>A piece's own pace as it is stored; of each piece one for each plan, price and cohort, and one for everybody.</summary>
    public sealed class PiecePace
    {
        public long Id { get; init; }
        public PieceId PieceId { get; init; }
        public PlanId? PlanId { get; init; }
        public PriceId? PriceId { get; init; }
        public CohortId? CohortId { get; init; }
        public required Pace Pace { get; set; }
        public IReadOnlyDictionary<LessonId, int> Moves { get; set; } = new Dictionary<LessonId, int>();

        public PieceTimeline Timeline => new(PieceId, PlanId, PriceId, CohortId, Pace, Moves);
    }

    /// <summary>Somebody who was put into a cohort by hand.</summary>
    public sealed class CohortMember
    {
        public CohortId CohortId { get; init; }
        public MemberId MemberId { get; init; }
    }
}

namespace BrightCircle.Data.Mapping
{
    sealed class PaceMapping : IEntityTypeConfiguration<PiecePace>, IEntityTypeConfiguration<Cohort>, IEntityTypeConfiguration<CohortMember>
    {
        public void Configure(EntityTypeBuilder<PiecePace> b)
        {
            b.ToTable("piece_paces");
            b.Property(p => p.Id).ValueGeneratedNever();
            b.Property(p => p.Pace).HasColumnType("jsonb").HasConversion(BrightContext.Json<Pace>(), BrightContext.JsonComparer<Pace>());
            b.Property(p => p.Moves).HasColumnType("jsonb").HasConversion(BrightContext.Json<IReadOnlyDictionary<LessonId, int>>(),
                BrightContext.JsonComparer<IReadOnlyDictionary<LessonId, int>>());
            b.Ignore(p => p.Timeline);
            b.HasIndex(p => new { p.PieceId, p.PlanId, p.PriceId, p.CohortId }).IsUnique().AreNullsDistinct(false);
            b.HasOne<Piece>().WithMany().HasForeignKey(p => p.PieceId).OnDelete(DeleteBehavior.Cascade);
            b.HasOne<Plan>().WithMany().HasForeignKey(p => p.PlanId).OnDelete(DeleteBehavior.Restrict);
            b.HasOne<Price>().WithMany().HasForeignKey(p => p.PriceId).OnDelete(DeleteBehavior.Restrict);
            b.HasOne<Cohort>().WithMany().HasForeignKey(p => p.CohortId).OnDelete(DeleteBehavior.Cascade);
        }

        public void Configure(EntityTypeBuilder<Cohort> b)
        {
            b.ToTable("cohorts");
            b.Property(c => c.Id).ValueGeneratedNever();
            b.Property(c => c.Piece).HasColumnName("piece_id");
            b.Property(c => c.Name).HasMaxLength(80);
            b.Property(c => c.StartsAt);
            b.HasIndex(c => new { c.Piece, c.Name }).IsUnique();
            b.HasOne<Piece>().WithMany().HasForeignKey(c => c.Piece).OnDelete(DeleteBehavior.Cascade);
        }

        public void Configure(EntityTypeBuilder<CohortMember> b)
        {
            b.ToTable("cohort_members");
            b.HasKey(c => new { c.CohortId, c.MemberId });
            b.HasIndex(c => c.MemberId);
            b.HasOne<Cohort>().WithMany().HasForeignKey(c => c.CohortId).OnDelete(DeleteBehavior.Cascade);
            b.HasOne<Member>().WithMany().HasForeignKey(c => c.MemberId).OnDelete(DeleteBehavior.Restrict);
        }
    }
}
