using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class HouseLetters : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "mail_key",
                table: "site",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "mail_selector",
                table: "site",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<bool>(
                name: "signs_mail",
                table: "site",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<bool>(
                name: "team_needs_second_step",
                table: "site",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<long>(
                name: "member_id",
                table: "mailings",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "plan_id",
                table: "letters",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "text_id",
                table: "letters",
                type: "bigint",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "letter_texts",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    kind = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    plan_id = table.Column<long>(type: "bigint", nullable: true),
                    version = table.Column<int>(type: "integer", nullable: false),
                    subject = table.Column<string>(type: "character varying(150)", maxLength: 150, nullable: false),
                    preheader = table.Column<string>(type: "character varying(150)", maxLength: 150, nullable: false),
                    body = table.Column<string>(type: "character varying(60000)", maxLength: 60000, nullable: true),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    by = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_letter_texts", x => x.id);
                    table.CheckConstraint("ck_letter_texts_kind_known", "\"kind\" in ('Welcome', 'SignIn', 'Receipt', 'Edition', 'PaymentFailed', 'Ending', 'Lapsed', 'Refund', 'Place', 'Answered', 'Marked', 'Confirm', 'HasAccount', 'Seat', 'Covered', 'Changed', 'Paused', 'Closed', 'PriceTold', 'Credited', 'OrderPlaced', 'PaymentWanted', 'OrderReminder', 'OrderOver', 'Voucher', 'VoucherFor', 'CardRunsOut', 'OwnerNews', 'Many', 'TeamInvite')");
                    table.ForeignKey(
                        name: "fk_letter_texts_plans_plan_id",
                        column: x => x.plan_id,
                        principalTable: "plans",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "second_steps",
                columns: table => new
                {
                    account_id = table.Column<long>(type: "bigint", nullable: false),
                    key = table.Column<string>(type: "character varying(500)", maxLength: 500, nullable: false),
                    since = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    last_step = table.Column<long>(type: "bigint", nullable: false),
                    spare = table.Column<string[]>(type: "text[]", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_second_steps", x => x.account_id);
                    table.ForeignKey(
                        name: "fk_second_steps_accounts_account_id",
                        column: x => x.account_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "ix_mailings_member_id",
                table: "mailings",
                column: "member_id");

            migrationBuilder.CreateIndex(
                name: "ix_letters_kind_id",
                table: "letters",
                columns: new[] { "kind", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_letters_plan_id",
                table: "letters",
                column: "plan_id");

            migrationBuilder.CreateIndex(
                name: "ix_letters_text_id",
                table: "letters",
                column: "text_id");

            migrationBuilder.CreateIndex(
                name: "ix_letter_texts_kind_plan_id_version",
                table: "letter_texts",
                columns: new[] { "kind", "plan_id", "version" },
                unique: true)
                .Annotation("Npgsql:NullsDistinct", false);

            migrationBuilder.CreateIndex(
                name: "ix_letter_texts_plan_id",
                table: "letter_texts",
                column: "plan_id");

            migrationBuilder.AddForeignKey(
                name: "fk_letters_letter_texts_text_id",
                table: "letters",
                column: "text_id",
                principalTable: "letter_texts",
                principalColumn: "id",
                onDelete: ReferentialAction.Restrict);

            migrationBuilder.AddForeignKey(
                name: "fk_letters_plans_plan_id",
                table: "letters",
                column: "plan_id",
                principalTable: "plans",
                principalColumn: "id",
                onDelete: ReferentialAction.Restrict);

            migrationBuilder.AddForeignKey(
                name: "fk_mailings_members_member_id",
                table: "mailings",
                column: "member_id",
                principalTable: "members",
                principalColumn: "id",
                onDelete: ReferentialAction.Cascade);

            migrationBuilder.Sql("""
                create trigger tell_catalogue after insert or update or delete on letter_texts for each statement execute function tell_catalogue();

                -- Nothing of the books is changed or emptied. Only what was a rehearsal goes, when the site goes live, and what happened to somebody who asked
                -- to be deleted, each in a transaction that says so.
                create or replace function refuse_change() returns trigger language plpgsql as $$
                begin
                  if tg_op = 'DELETE' and current_setting('bright.going_live', true) = 'yes' then return old; end if;
                  if tg_op = 'DELETE' and tg_table_name = 'journal' and current_setting('bright.forgetting', true) = 'yes' then return old; end if;
                  raise exception '% is append-only: corrections are new rows', tg_table_name using errcode = 'restrict_violation';
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
                  raise exception '% is append-only: corrections are new rows', tg_table_name using errcode = 'restrict_violation';
                end $$;
                """);

            migrationBuilder.DropForeignKey(
                name: "fk_letters_letter_texts_text_id",
                table: "letters");

            migrationBuilder.DropForeignKey(
                name: "fk_letters_plans_plan_id",
                table: "letters");

            migrationBuilder.DropForeignKey(
                name: "fk_mailings_members_member_id",
                table: "mailings");

            migrationBuilder.DropTable(
                name: "letter_texts");

            migrationBuilder.DropTable(
                name: "second_steps");

            migrationBuilder.DropIndex(
                name: "ix_mailings_member_id",
                table: "mailings");

            migrationBuilder.DropIndex(
                name: "ix_letters_kind_id",
                table: "letters");

            migrationBuilder.DropIndex(
                name: "ix_letters_plan_id",
                table: "letters");

            migrationBuilder.DropIndex(
                name: "ix_letters_text_id",
                table: "letters");

            migrationBuilder.DropColumn(
                name: "mail_key",
                table: "site");

            migrationBuilder.DropColumn(
                name: "mail_selector",
                table: "site");

            migrationBuilder.DropColumn(
                name: "signs_mail",
                table: "site");

            migrationBuilder.DropColumn(
                name: "team_needs_second_step",
                table: "site");

            migrationBuilder.DropColumn(
                name: "member_id",
                table: "mailings");

            migrationBuilder.DropColumn(
                name: "plan_id",
                table: "letters");

            migrationBuilder.DropColumn(
                name: "text_id",
                table: "letters");
        }
    }
}
