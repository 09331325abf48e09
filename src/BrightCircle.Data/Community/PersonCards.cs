using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace BrightCircle.Data
{
    /// <summary>How somebody wants to be seen by other members. No row: they said nothing, and aren’t found.</summary>
    public sealed class PersonCard
    {
        public const int MostLine = 160, MostPlace = 80;
        /// <summary>What stands in place of the name of somebody who has gone and wanted it so.</summary>
        public const string Former = "A former member";

        public long AccountId { get; init; }
        /// <summary>They want to be found among the people here.</summary>
        public bool Shown { get; set; }
        /// <summary>Who they are, in a line.</summary>
        public string Line { get; set; } = "";
        /// <summary>Where they are, as they say it.</summary>
        public string Place { get; set; } = "";
        public long? PictureId { get; set; }
        /// <summary>Other members may ask whether they may write to them.</summary>
        public bool TakesWords { get; set; }
        /// <summary>Whoever writes to them sees when they have read it.</summary>
        public bool TellsRead { get; set; }
        /// <summary>When their membership is over, what they wrote doesn’t bear their name. A trigger keeps it (see the migration People).</summary>
        public bool UnnamedAfter { get; set; }
        public Instant At { get; set; }
    }
}

namespace BrightCircle.Data.Mapping
{
    sealed class PersonCardMapping : IEntityTypeConfiguration<PersonCard>
    {
        public void Configure(EntityTypeBuilder<PersonCard> b)
        {
            b.ToTable("person_cards");
            b.HasKey(c => c.AccountId);
            b.Property(c => c.AccountId).ValueGeneratedNever();
            b.Property(c => c.Line).HasMaxLength(PersonCard.MostLine);
            b.Property(c => c.Place).HasMaxLength(PersonCard.MostPlace);
            b.HasOne<Account>().WithMany().HasForeignKey(c => c.AccountId).OnDelete(DeleteBehavior.Cascade);
            b.HasOne<TalkPicture>().WithMany().HasForeignKey(c => c.PictureId).OnDelete(DeleteBehavior.SetNull);
        }
    }
}
