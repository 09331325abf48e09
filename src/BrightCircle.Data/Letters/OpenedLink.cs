using BrightCircle.Core;
using BrightCircle.Core.Members;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace BrightCircle.Data
{
    /// <summary>A link of a letter that its reader followed, where that is counted: once for each link of a letter.</summary>
    public sealed class OpenedLink
    {
        public long LetterId { get; init; }
        /// <summary>The how-manieth of its letter, from 0.</summary>
        public int Link { get; init; }
        public MemberId MemberId { get; init; }
        public long MailingId { get; init; }
        public Instant At { get; init; }
    }
}

namespace BrightCircle.Data.Mapping
{
    sealed class OpenedLinkMapping : IEntityTypeConfiguration<OpenedLink>
    {
        public void Configure(EntityTypeBuilder<OpenedLink> b)
        {
            b.ToTable("opened_links");
            b.HasKey(o => new { o.LetterId, o.Link });
            b.HasIndex(o => new { o.MemberId, o.At });
            b.HasIndex(o => o.MailingId);
            b.HasOne<Letter>().WithMany().HasForeignKey(o => o.LetterId).OnDelete(DeleteBehavior.Cascade);
            b.HasOne<Mailing>().WithMany().HasForeignKey(o => o.MailingId).OnDelete(DeleteBehavior.Cascade);
            b.HasOne<Member>().WithMany().HasForeignKey(o => o.MemberId).OnDelete(DeleteBehavior.Restrict);
        }
    }
}
