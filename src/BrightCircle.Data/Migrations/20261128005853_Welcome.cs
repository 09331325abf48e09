using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class Welcome : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

            migrationBuilder.AddColumn<bool>(
                name: "counts_links",
                table: "site",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<string>(
                name: "first_steps",
                table: "site",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'[]'");

            migrationBuilder.AddColumn<string>(
                name: "hello_words",
                table: "site",
                type: "character varying(200)",
                maxLength: 200,
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "program_key",
                table: "site",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "start_piece_id",
                table: "plans",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "audience_id",
                table: "coupons",
                type: "bigint",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "first_steps",
                columns: table => new
                {
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    step = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    put_away = table.Column<bool>(type: "boolean", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_first_steps", x => new { x.member_id, x.step });
                    table.CheckConstraint("ck_first_steps_step_known", "\"step\" in ('Hello', 'Zone', 'About', 'StartHere')");
                    table.ForeignKey(
                        name: "fk_first_steps_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "opened_links",
                columns: table => new
                {
                    letter_id = table.Column<long>(type: "bigint", nullable: false),
                    link = table.Column<int>(type: "integer", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    mailing_id = table.Column<long>(type: "bigint", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_opened_links", x => new { x.letter_id, x.link });
                    table.ForeignKey(
                        name: "fk_opened_links_letters_letter_id",
                        column: x => x.letter_id,
                        principalTable: "letters",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_opened_links_mailings_mailing_id",
                        column: x => x.mailing_id,
                        principalTable: "mailings",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_opened_links_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "outgoing_calls",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    routine_id = table.Column<long>(type: "bigint", nullable: false),
                    url = table.Column<string>(type: "character varying(400)", maxLength: 400, nullable: false),
                    body = table.Column<string>(type: "character varying(4000)", maxLength: 4000, nullable: false),
                    key = table.Column<string>(type: "character varying(80)", maxLength: 80, nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    state = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    next_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    tries = table.Column<int>(type: "integer", nullable: false),
                    answer = table.Column<string>(type: "character varying(300)", maxLength: 300, nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_outgoing_calls", x => x.id);
                    table.CheckConstraint("ck_outgoing_calls_state_known", "\"state\" in ('Waiting', 'Taken', 'GivenUp')");
                    table.ForeignKey(
                        name: "fk_outgoing_calls_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_outgoing_calls_routines_routine_id",
                        column: x => x.routine_id,
                        principalTable: "routines",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "sign_ins",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    account_id = table.Column<long>(type: "bigint", nullable: false),
                    device = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    last_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    ended_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_sign_ins", x => x.id);
                    table.ForeignKey(
                        name: "fk_sign_ins_accounts_account_id",
                        column: x => x.account_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "ix_plans_start_piece_id",
                table: "plans",
                column: "start_piece_id");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise', 'BeginHolding', 'PeopleBatch', 'EndSeats', 'EndPause', 'Settle', 'MovePrice', 'ChaseOrder', 'AskTransfer', 'SendVoucher', 'DisputeDecided', 'OwnerNews', 'OwnerMorning', 'CardExpiring', 'ForgetOrders', 'Mailing', 'RoutineHears', 'RoutineStep', 'RoutineDay', 'RoutineBegin', 'RoutineEdition')");

            migrationBuilder.CreateIndex(
                name: "ix_coupons_audience_id",
                table: "coupons",
                column: "audience_id");

            migrationBuilder.CreateIndex(
                name: "ix_opened_links_mailing_id",
                table: "opened_links",
                column: "mailing_id");

            migrationBuilder.CreateIndex(
                name: "ix_opened_links_member_id_at",
                table: "opened_links",
                columns: new[] { "member_id", "at" });

            migrationBuilder.CreateIndex(
                name: "ix_outgoing_calls_given_up",
                table: "outgoing_calls",
                column: "id",
                filter: "state = 'GivenUp'");

            migrationBuilder.CreateIndex(
                name: "ix_outgoing_calls_key",
                table: "outgoing_calls",
                column: "key",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_outgoing_calls_member_id",
                table: "outgoing_calls",
                column: "member_id");

            migrationBuilder.CreateIndex(
                name: "ix_outgoing_calls_routine_id",
                table: "outgoing_calls",
                column: "routine_id");

            migrationBuilder.CreateIndex(
                name: "ix_outgoing_calls_waiting",
                table: "outgoing_calls",
                column: "next_at",
                filter: "state = 'Waiting'");

            migrationBuilder.CreateIndex(
                name: "ix_sign_ins_account_id_last_at",
                table: "sign_ins",
                columns: new[] { "account_id", "last_at" });

            migrationBuilder.AddForeignKey(
                name: "fk_coupons_audiences_audience_id",
                table: "coupons",
                column: "audience_id",
                principalTable: "audiences",
                principalColumn: "id",
                onDelete: ReferentialAction.Restrict);

            migrationBuilder.AddForeignKey(
                name: "fk_plans_pieces_start_piece_id",
                table: "plans",
                column: "start_piece_id",
                principalTable: "pieces",
                principalColumn: "id",
                onDelete: ReferentialAction.SetNull);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(
                name: "fk_coupons_audiences_audience_id",
                table: "coupons");

            migrationBuilder.DropForeignKey(
                name: "fk_plans_pieces_start_piece_id",
                table: "plans");

            migrationBuilder.DropTable(
                name: "first_steps");

            migrationBuilder.DropTable(
                name: "opened_links");

            migrationBuilder.DropTable(
                name: "outgoing_calls");

            migrationBuilder.DropTable(
                name: "sign_ins");

            migrationBuilder.DropIndex(
                name: "ix_plans_start_piece_id",
                table: "plans");

            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

            migrationBuilder.DropIndex(
                name: "ix_coupons_audience_id",
                table: "coupons");

            migrationBuilder.DropColumn(
                name: "counts_links",
                table: "site");

            migrationBuilder.DropColumn(
                name: "first_steps",
                table: "site");

            migrationBuilder.DropColumn(
                name: "hello_words",
                table: "site");

            migrationBuilder.DropColumn(
                name: "program_key",
                table: "site");

            migrationBuilder.DropColumn(
                name: "start_piece_id",
                table: "plans");

            migrationBuilder.DropColumn(
                name: "audience_id",
                table: "coupons");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise', 'BeginHolding', 'PeopleBatch', 'EndSeats', 'EndPause', 'Settle', 'MovePrice', 'ChaseOrder', 'AskTransfer', 'SendVoucher', 'DisputeDecided', 'OwnerNews', 'OwnerMorning', 'CardExpiring', 'ForgetOrders', 'Mailing', 'RoutineHears', 'RoutineStep', 'RoutineDay', 'RoutineBegin')");
        }
    }
}
