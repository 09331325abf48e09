using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace BrightCircle.Data
{
    /// <summary>The second step of an account's signing in: a code from an app on a phone, or one of those kept for when the phone is lost.</summary>
    public sealed class SecondStep
    {
        public long AccountId { get; init; }
        /// <summary>What the codes are made from, protected by the data-protection keys.</summary>
        public string Key { get; set; } = "";
        /// <summary>Null until a first code has shown that the app has the key.</summary>
        public Instant? Since { get; set; }
        /// <summary>The half minute of the last code that was taken.</summary>
        public long LastStep { get; set; }
        /// <summary>Of the codes for when the phone is lost, those that weren't used: hashed.</summary>
        public string[] Spare { get; set; } = [];
    }
}

namespace BrightCircle.Data.Mapping
{
    sealed class SecondStepMapping : IEntityTypeConfiguration<SecondStep>
    {
        public void Configure(EntityTypeBuilder<SecondStep> b)
        {
            b.ToTable("second_steps");
            b.HasKey(s => s.AccountId);
            b.Property(s => s.AccountId).ValueGeneratedNever();
            b.Property(s => s.Key).HasMaxLength(500);
            b.HasOne<Account>().WithMany().HasForeignKey(s => s.AccountId).OnDelete(DeleteBehavior.Cascade);
        }
    }
}
