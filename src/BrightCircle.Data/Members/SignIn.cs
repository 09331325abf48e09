using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace BrightCircle.Data
{
    /// <summary>The kind of machine somebody is signed in on.</summary>
    public enum Device { Unknown, Program, Computer, Phone, Tablet }

    /// <summary>A browser in which somebody is, or was, signed in.</summary>
    public sealed class SignIn
    {
        public long Id { get; init; }
        public long AccountId { get; init; }
        /// <summary>As far as the browser says.</summary>
        public Device Device { get; init; }
        public Instant At { get; init; }
        /// <summary>To within some minutes.</summary>
        public Instant LastAt { get; set; }
        public Instant? EndedAt { get; set; }
    }
}

namespace BrightCircle.Data.Mapping
{
    sealed class SignInMapping : IEntityTypeConfiguration<SignIn>
    {
        public void Configure(EntityTypeBuilder<SignIn> b)
        {
            b.ToTable("sign_ins");
            b.Property(s => s.Id).ValueGeneratedNever();
            b.HasIndex(s => new { s.AccountId, s.LastAt });
            b.HasOne<Account>().WithMany().HasForeignKey(s => s.AccountId).OnDelete(DeleteBehavior.Cascade);
        }
    }
}
