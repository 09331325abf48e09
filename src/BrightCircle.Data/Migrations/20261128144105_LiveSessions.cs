using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class LiveSessions : Migration
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

            migrationBuilder.CreateTable(
                name: "live_series",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "character varying(80)", maxLength: 80, nullable: false),
                    about = table.Column<string>(type: "character varying(1000)", maxLength: 1000, nullable: false),
                    host = table.Column<string>(type: "character varying(80)", maxLength: 80, nullable: false),
                    place = table.Column<string>(type: "character varying(400)", maxLength: 400, nullable: false),
                    minutes = table.Column<int>(type: "integer", nullable: false),
                    seats = table.Column<int>(type: "integer", nullable: true),
                    for_guests = table.Column<bool>(type: "boolean", nullable: false),
                    closed_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    made_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_live_series", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "live_sessions",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    series_id = table.Column<long>(type: "bigint", nullable: false),
                    title = table.Column<string>(type: "character varying(80)", maxLength: 80, nullable: false),
                    starts_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    minutes = table.Column<int>(type: "integer", nullable: false),
                    place = table.Column<string>(type: "character varying(400)", maxLength: 400, nullable: false),
                    seats = table.Column<int>(type: "integer", nullable: true),
                    cancelled_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    why = table.Column<string>(type: "character varying(300)", maxLength: 300, nullable: false),
                    sequence = table.Column<int>(type: "integer", nullable: false),
                    lesson_id = table.Column<long>(type: "bigint", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_live_sessions", x => x.id);
                    table.ForeignKey(
                        name: "fk_live_sessions_lessons_lesson_id",
                        column: x => x.lesson_id,
                        principalTable: "lessons",
                        principalColumn: "id",
                        onDelete: ReferentialAction.SetNull);
                    table.ForeignKey(
                        name: "fk_live_sessions_live_series_series_id",
                        column: x => x.series_id,
                        principalTable: "live_series",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "session_people",
                columns: table => new
                {
                    session_id = table.Column<long>(type: "bigint", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    waiting = table.Column<bool>(type: "boolean", nullable: false),
                    withdrawn_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    came_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    marked_by = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_session_people", x => new { x.session_id, x.member_id });
                    table.ForeignKey(
                        name: "fk_session_people_live_sessions_session_id",
                        column: x => x.session_id,
                        principalTable: "live_sessions",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_session_people_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "session_questions",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    session_id = table.Column<long>(type: "bigint", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    text = table.Column<string>(type: "character varying(1000)", maxLength: 1000, nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_session_questions", x => x.id);
                    table.ForeignKey(
                        name: "fk_session_questions_live_sessions_session_id",
                        column: x => x.session_id,
                        principalTable: "live_sessions",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_session_questions_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.AddCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters",
                sql: "\"kind\" in ('Welcome', 'SignIn', 'Receipt', 'Edition', 'PaymentFailed', 'Ending', 'Lapsed', 'Refund', 'Place', 'Answered', 'Marked', 'Confirm', 'HasAccount', 'Seat', 'Covered', 'Changed', 'Paused', 'Closed', 'PriceTold', 'Credited', 'OrderPlaced', 'PaymentWanted', 'OrderReminder', 'OrderOver', 'Voucher', 'VoucherFor', 'CardRunsOut', 'OwnerNews', 'Many', 'TeamInvite', 'HalfWay', 'Session')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_letter_texts_kind_known",
                table: "letter_texts",
                sql: "\"kind\" in ('Welcome', 'SignIn', 'Receipt', 'Edition', 'PaymentFailed', 'Ending', 'Lapsed', 'Refund', 'Place', 'Answered', 'Marked', 'Confirm', 'HasAccount', 'Seat', 'Covered', 'Changed', 'Paused', 'Closed', 'PriceTold', 'Credited', 'OrderPlaced', 'PaymentWanted', 'OrderReminder', 'OrderOver', 'Voucher', 'VoucherFor', 'CardRunsOut', 'OwnerNews', 'Many', 'TeamInvite', 'HalfWay', 'Session')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise', 'BeginHolding', 'PeopleBatch', 'EndSeats', 'EndPause', 'Settle', 'MovePrice', 'ChaseOrder', 'AskTransfer', 'SendVoucher', 'DisputeDecided', 'OwnerNews', 'OwnerMorning', 'CardExpiring', 'ForgetOrders', 'Mailing', 'RoutineHears', 'RoutineStep', 'RoutineDay', 'RoutineBegin', 'RoutineEdition', 'ForgetCard', 'RemindHalfWay', 'CountMonth', 'SessionNear')");

            migrationBuilder.CreateIndex(
                name: "ix_live_series_name",
                table: "live_series",
                column: "name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_live_sessions_lesson_id",
                table: "live_sessions",
                column: "lesson_id");

            migrationBuilder.CreateIndex(
                name: "ix_live_sessions_series_id_starts_at",
                table: "live_sessions",
                columns: new[] { "series_id", "starts_at" });

            migrationBuilder.CreateIndex(
                name: "ix_session_people_member_id",
                table: "session_people",
                column: "member_id");

            migrationBuilder.CreateIndex(
                name: "ix_session_questions_member_id",
                table: "session_questions",
                column: "member_id");

            migrationBuilder.CreateIndex(
                name: "ix_session_questions_session_id_id",
                table: "session_questions",
                columns: new[] { "session_id", "id" });

            foreach (var table in new[] { "live_series", "live_sessions" })
                migrationBuilder.Sql($"""
                    create trigger tell_catalogue after insert or update or delete on {table} for each statement execute function tell_catalogue();
                    """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "session_people");

            migrationBuilder.DropTable(
                name: "session_questions");

            migrationBuilder.DropTable(
                name: "live_sessions");

            migrationBuilder.DropTable(
                name: "live_series");

            migrationBuilder.DropCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters");

            migrationBuilder.DropCheckConstraint(
                name: "ck_letter_texts_kind_known",
                table: "letter_texts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

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
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise', 'BeginHolding', 'PeopleBatch', 'EndSeats', 'EndPause', 'Settle', 'MovePrice', 'ChaseOrder', 'AskTransfer', 'SendVoucher', 'DisputeDecided', 'OwnerNews', 'OwnerMorning', 'CardExpiring', 'ForgetOrders', 'Mailing', 'RoutineHears', 'RoutineStep', 'RoutineDay', 'RoutineBegin', 'RoutineEdition', 'ForgetCard', 'RemindHalfWay', 'CountMonth')");
        }
    }
}
