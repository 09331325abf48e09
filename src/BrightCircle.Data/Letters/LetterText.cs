using BrightCircle.Core;
using BrightCircle.Core.Offer;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace BrightCircle.Data
{
    /// <summary>
    /// A version of a letter of the house in the owner's words, for all plans or for one. Each saving is a row of its own; the last one counts. What went out
    /// keeps the number of the one it was made from.
    /// </summary>
    public sealed class LetterText
    {
        public long Id { get; init; }
        public LetterKind Kind { get; init; }
        /// <summary>Only for this plan; null for whatever has no words of its own.</summary>
        public PlanId? PlanId { get; init; }
        /// <summary>Counts from one for each kind and plan.</summary>
        public int Version { get; init; }
        public string Subject { get; init; } = "";
        public string Preheader { get; init; } = "";
        /// <summary>Rich text as it is kept, with fields in double braces and links to #what they lead to; null for “as it was before anybody changed
        /// it”.</summary>
        public string? Body { get; init; }
        /// <summary>A picture above its words; it goes along with the letter.</summary>
        public FileId? PictureId { get; init; }
        public Instant At { get; init; }
        public string By { get; init; } = "";
    }
}

namespace BrightCircle.Data.Mapping
{
    sealed class LetterTextMapping : IEntityTypeConfiguration<LetterText>
    {
        public void Configure(EntityTypeBuilder<LetterText> b)
        {
            b.ToTable("letter_texts");
            b.Property(t => t.Id).ValueGeneratedNever();
            b.Property(t => t.Subject).HasMaxLength(Mailing.MostSubject);
            b.Property(t => t.Preheader).HasMaxLength(Mailing.MostPreheader);
            b.Property(t => t.Body).HasMaxLength(Mailing.MostBody);
            b.Property(t => t.By).HasMaxLength(120);
            b.HasOne<StoredFile>().WithMany().HasForeignKey(t => t.PictureId).OnDelete(DeleteBehavior.Restrict);
            b.HasOne<Plan>().WithMany().HasForeignKey(t => t.PlanId).OnDelete(DeleteBehavior.Restrict);
            b.HasIndex(t => new { t.Kind, t.PlanId, t.Version }).IsUnique().AreNullsDistinct(false);
        }
    }
}
