using BrightCircle.Core;
using BrightCircle.Core.Content;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace BrightCircle.Data
{
    /// <summary>How often a piece's doorway was met on a day, and how often somebody went on from it. Nobody is named.</summary>
    public sealed class DoorwayDay
    {
        public PieceId PieceId { get; init; }
        /// <summary>In the site's time zone.</summary>
        public LocalDate Day { get; init; }
        public int Met { get; set; }
        public int Clicked { get; set; }
    }
}

namespace BrightCircle.Data.Mapping
{
    sealed class DoorwayDayMapping : IEntityTypeConfiguration<DoorwayDay>
    {
        public void Configure(EntityTypeBuilder<DoorwayDay> b)
        {
            b.ToTable("doorway_days");
            b.HasKey(d => new { d.PieceId, d.Day });
            b.HasOne<Piece>().WithMany().HasForeignKey(d => d.PieceId).OnDelete(DeleteBehavior.Cascade);
        }
    }
}
