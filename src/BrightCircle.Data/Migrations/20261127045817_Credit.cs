using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class Credit : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropCheckConstraint(
                name: "ck_payments_refunded",
                table: "payments");

            migrationBuilder.DropCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters");

            migrationBuilder.AddColumn<long>(
                name: "credited_minor",
                table: "payments",
                type: "bigint",
                nullable: false,
                defaultValue: 0L);

            migrationBuilder.AddCheckConstraint(
                name: "ck_payments_refunded",
                table: "payments",
                sql: "refunded_minor >= 0 and credited_minor >= 0 and refunded_minor + credited_minor <= amount_minor");

            migrationBuilder.AddCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters",
                sql: "\"kind\" in ('Welcome', 'SignIn', 'Receipt', 'Edition', 'PaymentFailed', 'Ending', 'Lapsed', 'Refund', 'Place', 'Answered', 'Marked', 'Confirm', 'HasAccount', 'Seat', 'Covered', 'Changed', 'Paused', 'Closed', 'PriceTold', 'Credited')");

            // What is asked next, for rows from before that was kept with them.
            migrationBuilder.Sql("""
                update due_work d set amount_minor = (h.agreement -> 'terms' -> 'amount' ->> 'minor')::bigint
                from holdings h where d.kind = 'Renew' and d.amount_minor is null and h.id = d.subject_id
                """);

            // Of a payment only what went back, or to its member's credit, is counted up.
            migrationBuilder.Sql("""
                create or replace function refuse_payment_change() returns trigger language plpgsql as $$
                begin
                  if to_jsonb(new) - 'refunded_minor' - 'credited_minor' - 'charged_back'
                      is distinct from to_jsonb(old) - 'refunded_minor' - 'credited_minor' - 'charged_back'
                    or new.refunded_minor < old.refunded_minor or new.credited_minor < old.credited_minor or (old.charged_back and not new.charged_back) then
                    raise exception 'payments are append-only: only what went back is counted up' using errcode = 'restrict_violation';
                  end if;
                  return new;
                end $$;
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropCheckConstraint(
                name: "ck_payments_refunded",
                table: "payments");

            migrationBuilder.DropCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters");

            migrationBuilder.DropColumn(
                name: "credited_minor",
                table: "payments");

            migrationBuilder.AddCheckConstraint(
                name: "ck_payments_refunded",
                table: "payments",
                sql: "refunded_minor between 0 and amount_minor");

            migrationBuilder.AddCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters",
                sql: "\"kind\" in ('Welcome', 'SignIn', 'Receipt', 'Edition', 'PaymentFailed', 'Ending', 'Lapsed', 'Refund', 'Place', 'Answered', 'Marked', 'Confirm', 'HasAccount', 'Seat', 'Covered', 'Changed', 'Paused', 'Closed', 'PriceTold')");

            migrationBuilder.Sql("""
                create or replace function refuse_payment_change() returns trigger language plpgsql as $$
                begin
                  if to_jsonb(new) - 'refunded_minor' - 'charged_back' is distinct from to_jsonb(old) - 'refunded_minor' - 'charged_back'
                    or new.refunded_minor < old.refunded_minor or (old.charged_back and not new.charged_back) then
                    raise exception 'payments are append-only: only what went back is counted up' using errcode = 'restrict_violation';
                  end if;
                  return new;
                end $$;
                """);
        }
    }
}
