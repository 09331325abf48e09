using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class Hours : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

            migrationBuilder.AddColumn<long>(
                name: "host_id",
                table: "live_series",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "hours",
                table: "live_series",
                type: "jsonb",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "hour_bookings",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    series_id = table.Column<long>(type: "bigint", nullable: false),
                    host_id = table.Column<long>(type: "bigint", nullable: true),
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    starts_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    ends_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    free_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    place = table.Column<string>(type: "character varying(400)", maxLength: 400, nullable: false),
                    about = table.Column<string>(type: "character varying(500)", maxLength: 500, nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    cancelled_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    sequence = table.Column<int>(type: "integer", nullable: false),
                    came_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_hour_bookings", x => x.id);
                    table.ForeignKey(
                        name: "fk_hour_bookings_accounts_host_id",
                        column: x => x.host_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.SetNull);
                    table.ForeignKey(
                        name: "fk_hour_bookings_live_series_series_id",
                        column: x => x.series_id,
                        principalTable: "live_series",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_hour_bookings_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "ix_live_series_host_id",
                table: "live_series",
                column: "host_id");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise', 'BeginHolding', 'PeopleBatch', 'EndSeats', 'EndPause', 'Settle', 'MovePrice', 'ChaseOrder', 'AskTransfer', 'SendVoucher', 'DisputeDecided', 'OwnerNews', 'OwnerMorning', 'CardExpiring', 'ForgetOrders', 'Mailing', 'RoutineHears', 'RoutineStep', 'RoutineDay', 'RoutineBegin', 'RoutineEdition', 'ForgetCard', 'RemindHalfWay', 'CountMonth', 'SessionNear', 'TalkHour', 'TalkAtOnce', 'ForgetWords', 'ForgetPicture', 'HourNear')");

            migrationBuilder.CreateIndex(
                name: "ix_hour_bookings_host_id",
                table: "hour_bookings",
                column: "host_id");

            migrationBuilder.CreateIndex(
                name: "ix_hour_bookings_member_id_starts_at",
                table: "hour_bookings",
                columns: new[] { "member_id", "starts_at" });

            migrationBuilder.CreateIndex(
                name: "ix_hour_bookings_series_id_starts_at",
                table: "hour_bookings",
                columns: new[] { "series_id", "starts_at" });

            migrationBuilder.AddForeignKey(
                name: "fk_live_series_accounts_host_id",
                table: "live_series",
                column: "host_id",
                principalTable: "accounts",
                principalColumn: "id",
                onDelete: ReferentialAction.SetNull);

            // Nobody is promised to two at once, however many ask at the same moment (PostgreSQL, exclusion constraints; btree_gist lets one compare numbers
            // in them and comes with the server).
            migrationBuilder.Sql("""
                create extension if not exists btree_gist;
                alter table hour_bookings add constraint ex_hour_bookings_host
                    exclude using gist (host_id with =, tstzrange(starts_at, free_at) with &&) where (cancelled_at is null);
                alter table hour_bookings add constraint ex_hour_bookings_member
                    exclude using gist (member_id with =, tstzrange(starts_at, ends_at) with &&) where (cancelled_at is null);
                alter table hour_bookings add constraint ck_hour_bookings_order check (starts_at < ends_at and ends_at <= free_at);
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(
                name: "fk_live_series_accounts_host_id",
                table: "live_series");

            migrationBuilder.DropTable(
                name: "hour_bookings");

            migrationBuilder.DropIndex(
                name: "ix_live_series_host_id",
                table: "live_series");

            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

            migrationBuilder.DropColumn(
                name: "host_id",
                table: "live_series");

            migrationBuilder.DropColumn(
                name: "hours",
                table: "live_series");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise', 'BeginHolding', 'PeopleBatch', 'EndSeats', 'EndPause', 'Settle', 'MovePrice', 'ChaseOrder', 'AskTransfer', 'SendVoucher', 'DisputeDecided', 'OwnerNews', 'OwnerMorning', 'CardExpiring', 'ForgetOrders', 'Mailing', 'RoutineHears', 'RoutineStep', 'RoutineDay', 'RoutineBegin', 'RoutineEdition', 'ForgetCard', 'RemindHalfWay', 'CountMonth', 'SessionNear', 'TalkHour', 'TalkAtOnce', 'ForgetWords', 'ForgetPicture')");
        }
    }
}
