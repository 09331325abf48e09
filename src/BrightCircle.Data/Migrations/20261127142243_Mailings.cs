using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class Mailings : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters");

            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

            migrationBuilder.AddColumn<long>(
                name: "mailing_id",
                table: "letters",
                type: "bigint",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "letter_series",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    day = table.Column<int>(type: "integer", nullable: false),
                    at = table.Column<LocalTime>(type: "time", nullable: false),
                    audience_id = table.Column<long>(type: "bigint", nullable: true),
                    order = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_letter_series", x => x.id);
                    table.CheckConstraint("ck_letter_series_day", "day between 1 and 7");
                    table.ForeignKey(
                        name: "fk_letter_series_audiences_audience_id",
                        column: x => x.audience_id,
                        principalTable: "audiences",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "mailings",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    subject = table.Column<string>(type: "character varying(150)", maxLength: 150, nullable: false),
                    preheader = table.Column<string>(type: "character varying(150)", maxLength: 150, nullable: false),
                    body = table.Column<string>(type: "character varying(60000)", maxLength: 60000, nullable: false),
                    audience_id = table.Column<long>(type: "bigint", nullable: true),
                    series_id = table.Column<long>(type: "bigint", nullable: true),
                    week = table.Column<LocalDate>(type: "date", nullable: true),
                    plain = table.Column<bool>(type: "boolean", nullable: false),
                    per_hour = table.Column<int>(type: "integer", nullable: true),
                    version = table.Column<int>(type: "integer", nullable: false),
                    made_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    changed_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    changed_by = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false),
                    send_at = table.Column<LocalDateTime>(type: "timestamp without time zone", nullable: true),
                    where_they_live = table.Column<bool>(type: "boolean", nullable: false),
                    begun_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    paused_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    stopped_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    written_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    after = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_mailings", x => x.id);
                    table.ForeignKey(
                        name: "fk_mailings_audiences_audience_id",
                        column: x => x.audience_id,
                        principalTable: "audiences",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_mailings_letter_series_series_id",
                        column: x => x.series_id,
                        principalTable: "letter_series",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "series_refusals",
                columns: table => new
                {
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    series_id = table.Column<long>(type: "bigint", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_series_refusals", x => new { x.member_id, x.series_id });
                    table.ForeignKey(
                        name: "fk_series_refusals_letter_series_series_id",
                        column: x => x.series_id,
                        principalTable: "letter_series",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_series_refusals_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateIndex(
                name: "ix_letters_mailing_id_state",
                table: "letters",
                columns: new[] { "mailing_id", "state" },
                filter: "mailing_id is not null");

            migrationBuilder.AddCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters",
                sql: "\"kind\" in ('Welcome', 'SignIn', 'Receipt', 'Edition', 'PaymentFailed', 'Ending', 'Lapsed', 'Refund', 'Place', 'Answered', 'Marked', 'Confirm', 'HasAccount', 'Seat', 'Covered', 'Changed', 'Paused', 'Closed', 'PriceTold', 'Credited', 'OrderPlaced', 'PaymentWanted', 'OrderReminder', 'OrderOver', 'Voucher', 'VoucherFor', 'CardRunsOut', 'OwnerNews', 'Many')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise', 'BeginHolding', 'PeopleBatch', 'EndSeats', 'EndPause', 'Settle', 'MovePrice', 'ChaseOrder', 'AskTransfer', 'SendVoucher', 'DisputeDecided', 'OwnerNews', 'OwnerMorning', 'CardExpiring', 'ForgetOrders', 'Mailing')");

            migrationBuilder.CreateIndex(
                name: "ix_letter_series_audience_id",
                table: "letter_series",
                column: "audience_id");

            migrationBuilder.CreateIndex(
                name: "ix_letter_series_name",
                table: "letter_series",
                column: "name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_mailings_audience_id",
                table: "mailings",
                column: "audience_id");

            migrationBuilder.CreateIndex(
                name: "ix_mailings_series_id_week",
                table: "mailings",
                columns: new[] { "series_id", "week" });

            migrationBuilder.CreateIndex(
                name: "ix_series_refusals_series_id",
                table: "series_refusals",
                column: "series_id");

            migrationBuilder.AddForeignKey(
                name: "fk_letters_mailings_mailing_id",
                table: "letters",
                column: "mailing_id",
                principalTable: "mailings",
                principalColumn: "id",
                onDelete: ReferentialAction.Restrict);

            migrationBuilder.Sql("create trigger tell_catalogue after insert or update or delete on letter_series for each statement "
                + "execute function tell_catalogue();");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(
                name: "fk_letters_mailings_mailing_id",
                table: "letters");

            migrationBuilder.DropTable(
                name: "mailings");

            migrationBuilder.DropTable(
                name: "series_refusals");

            migrationBuilder.DropTable(
                name: "letter_series");

            migrationBuilder.DropIndex(
                name: "ix_letters_mailing_id_state",
                table: "letters");

            migrationBuilder.DropCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters");

            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

            migrationBuilder.DropColumn(
                name: "mailing_id",
                table: "letters");

            migrationBuilder.AddCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters",
                sql: "\"kind\" in ('Welcome', 'SignIn', 'Receipt', 'Edition', 'PaymentFailed', 'Ending', 'Lapsed', 'Refund', 'Place', 'Answered', 'Marked', 'Confirm', 'HasAccount', 'Seat', 'Covered', 'Changed', 'Paused', 'Closed', 'PriceTold', 'Credited', 'OrderPlaced', 'PaymentWanted', 'OrderReminder', 'OrderOver', 'Voucher', 'VoucherFor', 'CardRunsOut', 'OwnerNews')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise', 'BeginHolding', 'PeopleBatch', 'EndSeats', 'EndPause', 'Settle', 'MovePrice', 'ChaseOrder', 'AskTransfer', 'SendVoucher', 'DisputeDecided', 'OwnerNews', 'OwnerMorning', 'CardExpiring', 'ForgetOrders')");
        }
    }
}
