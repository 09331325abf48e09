using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace BrightCircle.Data.Mapping;

sealed class PaymentMapping : IEntityTypeConfiguration<Payment>
{
    public void Configure(EntityTypeBuilder<Payment> b)
    {
        b.ToTable("payments", t =>
        {
            t.HasCheckConstraint("ck_payments_amount", "amount_minor > 0");
            t.HasCheckConstraint("ck_payments_refunded", "refunded_minor >= 0 and credited_minor >= 0 and refunded_minor + credited_minor <= amount_minor");
        });
        b.Property(p => p.Id).ValueGeneratedNever();
        b.ComplexProperty(p => p.Amount, m => Money(m));
        b.Property(p => p.RefundedMinor);
        b.Property(p => p.CreditedMinor);
        b.Ignore(p => p.Credited);
        b.Ignore(p => p.GoneFrom);
        b.Property(p => p.ChargedBack);
        b.Property(p => p.Key).HasMaxLength(80);
        b.Property(p => p.ChargeRef).HasMaxLength(80);
        b.Property(p => p.CardLabel).HasMaxLength(40);
        b.Property(p => p.Refusal).HasMaxLength(200);
        b.Property(p => p.Lines).HasColumnType("jsonb").HasDefaultValueSql("'[]'").HasConversion(BrightContext.Json<IReadOnlyList<ChargeLine>>(),
            BrightContext.JsonComparer<IReadOnlyList<ChargeLine>>());
        b.HasIndex(p => p.CouponId).HasFilter("coupon_id is not null");
        b.HasOne<Coupon>().WithMany().HasForeignKey(p => p.CouponId).OnDelete(DeleteBehavior.Restrict);
        b.Ignore(p => p.Refunded);
        b.Ignore(p => p.Refundable);
        b.Ignore(p => p.State);
        b.Ignore(p => p.IsPaid);
        b.Ignore(p => p.TakenDiffers);
        b.Ignore(p => p.Receipt);
        b.Property(p => p.TakenCurrency).HasMaxLength(3);
        b.HasIndex(p => new { p.ReceiptYear, p.ReceiptNumber }).IsUnique();
        b.HasIndex(p => p.Key).IsUnique();
        b.HasIndex(p => p.At);
        b.HasIndex(p => p.MemberId);
        b.HasIndex(p => p.ChargeRef);
        b.HasIndex(p => p.OrderId).HasFilter("order_id is not null");
        b.HasOne<Checkout>().WithMany().HasForeignKey(p => p.OrderId).OnDelete(DeleteBehavior.Restrict);
        b.Property(p => p.Way).HasDefaultValue(PayWay.Card);
        // Each turn of a holding is paid at most once.
        b.HasIndex(p => new { p.HoldingId, p.Turn, p.Purpose }).IsUnique().HasFilter("outcome = 'Approved'").HasDatabaseName("ux_payments_one_per_turn");
        b.HasOne<Member>().WithMany().HasForeignKey(p => p.MemberId).OnDelete(DeleteBehavior.Restrict);
        b.HasOne<Holding>().WithMany().HasForeignKey(p => p.HoldingId).OnDelete(DeleteBehavior.Restrict);
        b.HasOne<Price>().WithMany().HasForeignKey(p => p.PriceId).OnDelete(DeleteBehavior.Restrict);
    }

    internal static void Money(ComplexPropertyBuilder<Money> m)
    {
        m.Property(x => x.Minor).HasColumnName("amount_minor");
        m.Property(x => x.Currency).HasColumnName("currency");
    }
}

sealed class DisputeMapping : IEntityTypeConfiguration<Dispute>
{
    public void Configure(EntityTypeBuilder<Dispute> b)
    {
        b.ToTable("disputes", t => t.HasCheckConstraint("ck_disputes_amount", "amount_minor > 0"));
        b.Property(d => d.Id).ValueGeneratedNever();
        b.ComplexProperty(d => d.Amount, m => PaymentMapping.Money(m));
        b.Property(d => d.Ref).HasMaxLength(80);
        b.Property(d => d.Reason).HasMaxLength(200);
        b.Property(d => d.Answer).HasMaxLength(4000);
        b.Property(d => d.AnsweredBy).HasMaxLength(120);
        b.HasIndex(d => d.Ref).IsUnique();
        b.HasIndex(d => d.PaymentId);
        b.HasOne<Payment>().WithMany().HasForeignKey(d => d.PaymentId).OnDelete(DeleteBehavior.Restrict);
        b.HasOne<Member>().WithMany().HasForeignKey(d => d.MemberId).OnDelete(DeleteBehavior.Restrict);
    }
}

sealed class RefundMapping : IEntityTypeConfiguration<Refund>
{
    public void Configure(EntityTypeBuilder<Refund> b)
    {
        b.ToTable("refunds", t => t.HasCheckConstraint("ck_refunds_amount", "amount_minor > 0"));
        b.Property(r => r.Id).ValueGeneratedNever();
        b.ComplexProperty(r => r.Amount, m => PaymentMapping.Money(m));
        b.Property(r => r.Reason).HasMaxLength(400);
        b.Property(r => r.Key).HasMaxLength(80);
        b.HasIndex(r => r.Key).IsUnique();
        b.HasIndex(r => r.At);
        b.HasOne<Payment>().WithMany().HasForeignKey(r => r.PaymentId).OnDelete(DeleteBehavior.Restrict);
    }
}

sealed class LedgerMapping : IEntityTypeConfiguration<LedgerEntry>
{
    public void Configure(EntityTypeBuilder<LedgerEntry> b)
    {
        b.ToTable("ledger");
        b.Property(l => l.Id).ValueGeneratedNever();
        b.ComplexProperty(l => l.Amount, m => PaymentMapping.Money(m));
        b.Property(l => l.Text).HasMaxLength(120);
        b.HasIndex(l => l.PostingId);
        b.HasIndex(l => l.PaymentId);
        b.HasOne<Payment>().WithMany().HasForeignKey(l => l.PaymentId).OnDelete(DeleteBehavior.Restrict);
        b.HasOne<Member>().WithMany().HasForeignKey(l => l.MemberId).OnDelete(DeleteBehavior.Restrict);
    }
}

sealed class CardMapping : IEntityTypeConfiguration<Card>
{
    public void Configure(EntityTypeBuilder<Card> b)
    {
        b.ToTable("cards");
        b.Property(c => c.Id).ValueGeneratedNever();
        b.Property(c => c.Token).HasMaxLength(80);
        b.Property(c => c.Label).HasMaxLength(40);
        b.HasIndex(c => new { c.MemberId, c.AddedAt });
        b.HasOne<Member>().WithMany().HasForeignKey(c => c.MemberId).OnDelete(DeleteBehavior.Restrict);
    }
}

sealed class CheckoutMapping : IEntityTypeConfiguration<Checkout>
{
    public void Configure(EntityTypeBuilder<Checkout> b)
    {
        b.ToTable("checkouts");
        b.Property(c => c.Id).ValueGeneratedNever();
        b.Property(c => c.Email).HasMaxLength(254);
        b.Property(c => c.Name).HasMaxLength(120);
        b.Property(c => c.Session).HasMaxLength(80);
        b.Property(c => c.AskedCurrency).HasMaxLength(3);
        b.Property(c => c.BrowserHash).HasMaxLength(64);
        b.Property(c => c.RefusedBecause).HasMaxLength(400);
        b.Ignore(c => c.Asked);
        b.Property(c => c.Coupon).HasColumnType("jsonb").HasConversion(BrightContext.Json<AppliedCoupon?>());
        b.Property(c => c.Voucher).HasColumnType("jsonb").HasConversion(BrightContext.Json<VoucherWish?>());
        b.Property(c => c.Extras).HasColumnType("jsonb").HasDefaultValueSql("'[]'").HasConversion(BrightContext.Json<IReadOnlyList<PriceId>>(),
            BrightContext.JsonComparer<IReadOnlyList<PriceId>>());
        b.Property(c => c.Way).HasDefaultValue(PayWay.Card);
        b.Property(c => c.Reference).HasMaxLength(25);
        b.Property(c => c.Country).HasMaxLength(2);
        b.HasIndex(c => c.Reference).IsUnique();
        b.HasIndex(c => c.BrowserHash).HasFilter("browser_hash is not null");
        b.HasIndex(c => c.HoldingId);
        b.HasIndex(c => c.Email);
        b.HasIndex(c => new { c.State, c.CreatedAt });
        b.HasIndex(c => c.FromPieceId).HasFilter("from_piece_id is not null");
        b.HasOne<Core.Content.Piece>().WithMany().HasForeignKey(c => c.FromPieceId).OnDelete(DeleteBehavior.SetNull);
        b.HasIndex(c => c.Session).IsUnique();
        b.HasOne<Price>().WithMany().HasForeignKey(c => c.PriceId).OnDelete(DeleteBehavior.Restrict);
        b.HasOne<Holding>().WithMany().HasForeignKey(c => c.HoldingId).OnDelete(DeleteBehavior.Restrict);
        b.HasOne<Member>().WithMany().HasForeignKey(c => c.MemberId).OnDelete(DeleteBehavior.Restrict);
    }
}

sealed class CheckoutSessionMapping : IEntityTypeConfiguration<CheckoutSession>, IEntityTypeConfiguration<TermsText>
{
    public void Configure(EntityTypeBuilder<CheckoutSession> b)
    {
        b.ToTable("checkout_sessions");
        b.HasKey(s => s.Session);
        b.Property(s => s.Session).HasMaxLength(80);
        b.Property(s => s.AskedCurrency).HasMaxLength(3);
        b.Property(s => s.Coupon).HasColumnType("jsonb").HasConversion(BrightContext.Json<AppliedCoupon?>());
        b.Property(s => s.Extras).HasColumnType("jsonb").HasConversion(BrightContext.Json<IReadOnlyList<PriceId>>(),
            BrightContext.JsonComparer<IReadOnlyList<PriceId>>());
        b.HasIndex(s => s.CheckoutId);
        b.HasOne<Checkout>().WithMany().HasForeignKey(s => s.CheckoutId).OnDelete(DeleteBehavior.Cascade);
    }

    public void Configure(EntityTypeBuilder<TermsText> b)
    {
        b.ToTable("terms_texts");
        b.HasKey(t => new { t.PageId, t.Version });
        b.Property(t => t.Title).HasMaxLength(120);
        b.Property(t => t.Sections).HasColumnType("jsonb").HasConversion(BrightContext.Json<IReadOnlyList<Core.Content.Block>>(),
            BrightContext.JsonComparer<IReadOnlyList<Core.Content.Block>>());
    }
}

sealed class ChargeAskMapping : IEntityTypeConfiguration<ChargeAsk>, IEntityTypeConfiguration<ReceiptCounter>, IEntityTypeConfiguration<PaymentToLookAt>
{
    public void Configure(EntityTypeBuilder<ChargeAsk> b)
    {
        b.ToTable("charge_asks");
        b.HasKey(a => a.Key);
        b.Property(a => a.Key).HasMaxLength(80);
        b.ComplexProperty(a => a.Amount, m => PaymentMapping.Money(m));
        b.Property(a => a.CardToken).HasMaxLength(80);
        b.Property(a => a.CardLabel).HasMaxLength(40);
        b.Property(a => a.Text).HasMaxLength(300);
        b.Property(a => a.Lines).HasColumnType("jsonb").HasDefaultValueSql("'[]'").HasConversion(BrightContext.Json<IReadOnlyList<ChargeLine>>(),
            BrightContext.JsonComparer<IReadOnlyList<ChargeLine>>());
        b.Property(a => a.Change).HasColumnType("jsonb").HasConversion(BrightContext.Json<ChangeOrder?>());
        b.Ignore(a => a.Charge);
        b.HasIndex(a => a.HoldingId);
        b.HasIndex(a => a.MemberId);
        b.HasOne<Holding>().WithMany().HasForeignKey(a => a.HoldingId).OnDelete(DeleteBehavior.Restrict);
        b.HasOne<Member>().WithMany().HasForeignKey(a => a.MemberId).OnDelete(DeleteBehavior.Restrict);
    }

    public void Configure(EntityTypeBuilder<ReceiptCounter> b)
    {
        b.ToTable("receipt_counters");
        b.HasKey(c => c.Year);
        b.Property(c => c.Year).ValueGeneratedNever();
    }

    public void Configure(EntityTypeBuilder<PaymentToLookAt> b)
    {
        b.ToTable("payments_to_look_at");
        b.Property(p => p.Id).ValueGeneratedNever();
        b.Property(p => p.Text).HasMaxLength(600);
        b.Property(p => p.Key).HasMaxLength(120);
        b.Property(p => p.SettledBy).HasMaxLength(120);
        b.HasIndex(p => p.Key).IsUnique();
        b.HasIndex(p => p.Id).HasFilter("settled_at is null").HasDatabaseName("ix_payments_to_look_at_open");
        b.HasOne<Member>().WithMany().HasForeignKey(p => p.MemberId).OnDelete(DeleteBehavior.Restrict);
        b.HasOne<Payment>().WithMany().HasForeignKey(p => p.PaymentId).OnDelete(DeleteBehavior.Restrict);
    }
}

sealed class CouponMapping : IEntityTypeConfiguration<Coupon>, IEntityTypeConfiguration<CouponUse>
{
    public void Configure(EntityTypeBuilder<Coupon> b)
    {
        b.ToTable("coupons");
        b.Property(c => c.Id).ValueGeneratedNever();
        b.Property(c => c.Code).HasMaxLength(40);
        b.HasIndex(c => c.Code).IsUnique();
        b.Property(c => c.Note).HasMaxLength(200);
        b.Property(c => c.Payments);
        b.Property(c => c.Off).HasColumnType("jsonb").HasConversion(BrightContext.Json<CouponOff>());
        b.Property(c => c.Plans).HasColumnType("jsonb").HasConversion(BrightContext.Json<IReadOnlyList<PlanId>>(),
            BrightContext.JsonComparer<IReadOnlyList<PlanId>>());
        b.Property(c => c.Prices).HasColumnType("jsonb").HasConversion(BrightContext.Json<IReadOnlyList<PriceId>>(),
            BrightContext.JsonComparer<IReadOnlyList<PriceId>>());
        b.HasOne<Core.Members.Audience>().WithMany().HasForeignKey(c => c.AudienceId).OnDelete(DeleteBehavior.Restrict);
        b.Ignore(c => c.Applied);
    }

    public void Configure(EntityTypeBuilder<CouponUse> b)
    {
        b.ToTable("coupon_uses");
        b.Property(u => u.Id).ValueGeneratedNever();
        b.Property(u => u.Email).HasMaxLength(254);
        b.HasIndex(u => u.CheckoutId).IsUnique();
        b.HasIndex(u => new { u.CouponId, u.UsedAt });
        b.HasOne<Coupon>().WithMany().HasForeignKey(u => u.CouponId).OnDelete(DeleteBehavior.Restrict);
        b.HasOne<Checkout>().WithMany().HasForeignKey(u => u.CheckoutId).OnDelete(DeleteBehavior.Cascade);
        b.HasOne<Member>().WithMany().HasForeignKey(u => u.MemberId).OnDelete(DeleteBehavior.Restrict);
        b.HasOne<Holding>().WithMany().HasForeignKey(u => u.HoldingId).OnDelete(DeleteBehavior.Restrict);
    }
}
