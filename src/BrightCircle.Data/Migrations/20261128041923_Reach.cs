using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class Reach : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters");

            migrationBuilder.DropCheckConstraint(
                name: "ck_letter_texts_kind_known",
                table: "letter_texts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

            migrationBuilder.AddColumn<bool>(
                name: "writes_half_way",
                table: "site",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<string>(
                name: "phone",
                table: "members",
                type: "character varying(40)",
                maxLength: 40,
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "postal_address",
                table: "members",
                type: "character varying(400)",
                maxLength: 400,
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "reads",
                table: "members",
                type: "character varying(2)",
                maxLength: 2,
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "may_remind",
                table: "checkouts",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters",
                sql: "\"kind\" in ('Welcome', 'SignIn', 'Receipt', 'Edition', 'PaymentFailed', 'Ending', 'Lapsed', 'Refund', 'Place', 'Answered', 'Marked', 'Confirm', 'HasAccount', 'Seat', 'Covered', 'Changed', 'Paused', 'Closed', 'PriceTold', 'Credited', 'OrderPlaced', 'PaymentWanted', 'OrderReminder', 'OrderOver', 'Voucher', 'VoucherFor', 'CardRunsOut', 'OwnerNews', 'Many', 'TeamInvite', 'HalfWay')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_letter_texts_kind_known",
                table: "letter_texts",
                sql: "\"kind\" in ('Welcome', 'SignIn', 'Receipt', 'Edition', 'PaymentFailed', 'Ending', 'Lapsed', 'Refund', 'Place', 'Answered', 'Marked', 'Confirm', 'HasAccount', 'Seat', 'Covered', 'Changed', 'Paused', 'Closed', 'PriceTold', 'Credited', 'OrderPlaced', 'PaymentWanted', 'OrderReminder', 'OrderOver', 'Voucher', 'VoucherFor', 'CardRunsOut', 'OwnerNews', 'Many', 'TeamInvite', 'HalfWay')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise', 'BeginHolding', 'PeopleBatch', 'EndSeats', 'EndPause', 'Settle', 'MovePrice', 'ChaseOrder', 'AskTransfer', 'SendVoucher', 'DisputeDecided', 'OwnerNews', 'OwnerMorning', 'CardExpiring', 'ForgetOrders', 'Mailing', 'RoutineHears', 'RoutineStep', 'RoutineDay', 'RoutineBegin', 'RoutineEdition', 'ForgetCard', 'RemindHalfWay')");

            migrationBuilder.Sql("""
                create or replace function refuse_change() returns trigger language plpgsql as $$
                begin
                  if tg_op = 'DELETE' and current_setting('bright.going_live', true) = 'yes' then return old; end if;
                  if tg_op = 'DELETE' and tg_table_name = 'journal' and current_setting('bright.forgetting', true) = 'yes' then return old; end if;
                  -- Two accounts of one person become one: whose it is changes, and nothing else.
                  if current_setting('bright.merging', true) = 'yes' and (tg_op = 'UPDATE' and to_jsonb(new) - 'member_id' = to_jsonb(old) - 'member_id') then
                    return new;
                  end if;
                  if current_setting('bright.merging', true) = 'yes' and tg_op = 'DELETE' and tg_table_name = 'standing_changes' then return old; end if;
                  raise exception '% is append-only: corrections are new rows', tg_table_name using errcode = 'restrict_violation';
                end $$;
                create or replace function refuse_payment_change() returns trigger language plpgsql as $$
                begin
                  if current_setting('bright.merging', true) = 'yes' and to_jsonb(new) - 'member_id' = to_jsonb(old) - 'member_id' then return new; end if;
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
            migrationBuilder.Sql("""
                create or replace function refuse_change() returns trigger language plpgsql as $$
                begin
                  if tg_op = 'DELETE' and current_setting('bright.going_live', true) = 'yes' then return old; end if;
                  if tg_op = 'DELETE' and tg_table_name = 'journal' and current_setting('bright.forgetting', true) = 'yes' then return old; end if;
                  raise exception '% is append-only: corrections are new rows', tg_table_name using errcode = 'restrict_violation';
                end $$;
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

            migrationBuilder.DropCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters");

            migrationBuilder.DropCheckConstraint(
                name: "ck_letter_texts_kind_known",
                table: "letter_texts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

            migrationBuilder.DropColumn(
                name: "writes_half_way",
                table: "site");

            migrationBuilder.DropColumn(
                name: "phone",
                table: "members");

            migrationBuilder.DropColumn(
                name: "postal_address",
                table: "members");

            migrationBuilder.DropColumn(
                name: "reads",
                table: "members");

            migrationBuilder.DropColumn(
                name: "may_remind",
                table: "checkouts");

            migrationBuilder.AddCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters",
                sql: "\"kind\" in ('Welcome', 'SignIn', 'Receipt', 'Edition', 'PaymentFailed', 'Ending', 'Lapsed', 'Refund', 'Place', 'Answered', 'Marked', 'Confirm', 'HasAccount', 'Seat', 'Covered', 'Changed', 'Paused', 'Closed', 'PriceTold', 'Credited', 'OrderPlaced', 'PaymentWanted', 'OrderReminder', 'OrderOver', 'Voucher', 'VoucherFor', 'CardRunsOut', 'OwnerNews', 'Many', 'TeamInvite')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_letter_texts_kind_known",
                table: "letter_texts",
                sql: "\"kind\" in ('Welcome', 'SignIn', 'Receipt', 'Edition', 'PaymentFailed', 'Ending', 'Lapsed', 'Refund', 'Place', 'Answered', 'Marked', 'Confirm', 'HasAccount', 'Seat', 'Covered', 'Changed', 'Paused', 'Closed', 'PriceTold', 'Credited', 'OrderPlaced', 'PaymentWanted', 'OrderReminder', 'OrderOver', 'Voucher', 'VoucherFor', 'CardRunsOut', 'OwnerNews', 'Many', 'TeamInvite')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise', 'BeginHolding', 'PeopleBatch', 'EndSeats', 'EndPause', 'Settle', 'MovePrice', 'ChaseOrder', 'AskTransfer', 'SendVoucher', 'DisputeDecided', 'OwnerNews', 'OwnerMorning', 'CardExpiring', 'ForgetOrders', 'Mailing', 'RoutineHears', 'RoutineStep', 'RoutineDay', 'RoutineBegin', 'RoutineEdition')");
        }
    }
}
