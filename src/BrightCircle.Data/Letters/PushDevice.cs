using BrightCircle.Core;
using BrightCircle.Core.Members;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace BrightCircle.Data
{
    /// <summary>A browser that shows somebody what is new, also while the site isn’t open in it.</summary>
    public sealed class PushDevice
    {
        public const int MostEndpoint = 500, MostEach = 10;

        public long Id { get; init; }
        public MemberId MemberId { get; set; }
        /// <summary>The browser they are signed in with: once that is over, nothing goes there.</summary>
        public long? SignInId { get; set; }
        /// <summary>The address its push service gave it.</summary>
        public string Endpoint { get; init; } = "";
        /// <summary>Its key and its secret (RFC 8291).</summary>
        public byte[] Key { get; set; } = [];
        public byte[] Secret { get; set; } = [];
        public Instant At { get; set; }
        /// <summary>What shows there about talk and messages isn’t sent as a letter as well.</summary>
        public bool Instead { get; set; }
    }

    /// <summary>What a browser is to show: an outbox beside that of letters.</summary>
    public sealed class PushNotice
    {
        public long Id { get; init; }
        public long DeviceId { get; init; }
        /// <summary>The letter it takes the place of, if it is taken; null where the letter went out, too.</summary>
        public long? LetterId { get; init; }
        public string Title { get; init; } = "";
        /// <summary>Where it leads, on this site.</summary>
        public string Path { get; init; } = "";
        public Instant At { get; init; }
        public Instant NotBefore { get; set; }
        public int Tries { get; set; }
    }
}

namespace BrightCircle.Data.Mapping
{
    sealed class PushMapping : IEntityTypeConfiguration<PushDevice>, IEntityTypeConfiguration<PushNotice>
    {
        public void Configure(EntityTypeBuilder<PushDevice> b)
        {
            b.ToTable("push_devices");
            b.Property(d => d.Id).ValueGeneratedNever();
            b.Property(d => d.Endpoint).HasMaxLength(PushDevice.MostEndpoint);
            b.HasOne<Member>().WithMany().HasForeignKey(d => d.MemberId).OnDelete(DeleteBehavior.Cascade);
            b.HasOne<SignIn>().WithMany().HasForeignKey(d => d.SignInId).OnDelete(DeleteBehavior.Cascade);
            b.HasIndex(d => d.Endpoint).IsUnique();
        }

        public void Configure(EntityTypeBuilder<PushNotice> b)
        {
            b.ToTable("push_notices");
            b.Property(n => n.Id).ValueGeneratedNever();
            b.Property(n => n.Title).HasMaxLength(200);
            b.Property(n => n.Path).HasMaxLength(200);
            b.HasOne<Letter>().WithMany().HasForeignKey(n => n.LetterId).OnDelete(DeleteBehavior.Cascade);
            b.HasOne<PushDevice>().WithMany().HasForeignKey(n => n.DeviceId).OnDelete(DeleteBehavior.Cascade);
            b.HasIndex(n => n.NotBefore);
        }
    }
}
