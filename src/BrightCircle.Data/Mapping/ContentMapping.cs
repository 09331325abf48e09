using BrightCircle.Core.Content;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace BrightCircle.Data.Mapping;

sealed class ShelfMapping : IEntityTypeConfiguration<Shelf>
{
    public void Configure(EntityTypeBuilder<Shelf> b)
    {
        b.ToTable("shelves", t => t.HasCheckConstraint("ck_shelves_colour", "colour between 1 and 8"));
        b.Property(s => s.Id).ValueGeneratedNever();
        b.Property(s => s.Name).HasMaxLength(80);
        b.Property(s => s.Mark).HasMaxLength(2);
        b.HasIndex(s => s.Name).IsUnique();
    }
}

sealed class PieceMapping : IEntityTypeConfiguration<Piece>
{
    public void Configure(EntityTypeBuilder<Piece> b)
    {
        b.ToTable("pieces", t => t.HasCheckConstraint("ck_pieces_minutes", "minutes is null or minutes between 1 and 6000"));
        b.Property(p => p.Id).ValueGeneratedNever();
        b.Property(p => p.Title).HasMaxLength(160);
        b.Property(p => p.Summary).HasMaxLength(600);
        b.Property(p => p.ReleasedAt);
        b.Property(p => p.Version).IsConcurrencyToken();
        b.Ignore(p => p.State);
        b.HasOne<Shelf>().WithMany().HasForeignKey(p => p.ShelfId).OnDelete(DeleteBehavior.Restrict);
        b.HasOne<Edition>().WithMany().HasForeignKey(p => p.EditionId).OnDelete(DeleteBehavior.Restrict);
    }
}

sealed class PieceBodyMapping : IEntityTypeConfiguration<PieceBody>
{
    public void Configure(EntityTypeBuilder<PieceBody> b)
    {
        b.ToTable("piece_bodies");
        b.HasKey(p => p.PieceId);
        b.HasOne<Piece>().WithOne().HasForeignKey<PieceBody>(p => p.PieceId).OnDelete(DeleteBehavior.Cascade);
    }
}

sealed class EditionMapping : IEntityTypeConfiguration<Edition>
{
    public void Configure(EntityTypeBuilder<Edition> b)
    {
        b.ToTable("editions", t => t.HasCheckConstraint("ck_editions_month", "extract(day from month_date) = 1"));
        b.Property(e => e.Id).ValueGeneratedNever();
        b.Property(e => e.Title).HasMaxLength(160);
        b.Property(e => e.ReleasedAt);
        b.Ignore(e => e.State);
        b.Ignore(e => e.Month);
        b.HasIndex(e => e.MonthDate).IsUnique();
    }
}
