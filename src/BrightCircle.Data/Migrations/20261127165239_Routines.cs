using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class Routines : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropCheckConstraint(
                name: "ck_holdings_source_known",
                table: "holdings");

            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

            migrationBuilder.AddColumn<long>(
                name: "routine_id",
                table: "mailings",
                type: "bigint",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "routines",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "character varying(80)", maxLength: 80, nullable: false),
                    script = table.Column<string>(type: "jsonb", nullable: false),
                    on_since = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    version = table.Column<int>(type: "integer", nullable: false),
                    made_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_routines", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "routine_runs",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    routine_id = table.Column<long>(type: "bigint", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    begun_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    because = table.Column<long>(type: "bigint", nullable: true),
                    step = table.Column<int>(type: "integer", nullable: false),
                    until = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    came = table.Column<bool>(type: "boolean", nullable: false),
                    turn = table.Column<int>(type: "integer", nullable: false),
                    ended_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    end = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_routine_runs", x => x.id);
                    table.CheckConstraint("ck_routine_runs_end_known", "\"end\" in ('Through', 'Goal', 'BegunAnew', 'TakenOut')");
                    table.ForeignKey(
                        name: "fk_routine_runs_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_routine_runs_routines_routine_id",
                        column: x => x.routine_id,
                        principalTable: "routines",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "routine_triggers",
                columns: table => new
                {
                    routine_id = table.Column<long>(type: "bigint", nullable: false),
                    kind = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_routine_triggers", x => new { x.kind, x.routine_id });
                    table.ForeignKey(
                        name: "fk_routine_triggers_routines_routine_id",
                        column: x => x.routine_id,
                        principalTable: "routines",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "routine_done",
                columns: table => new
                {
                    run_id = table.Column<long>(type: "bigint", nullable: false),
                    step = table.Column<int>(type: "integer", nullable: false),
                    turn = table.Column<int>(type: "integer", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    what = table.Column<string>(type: "character varying(300)", maxLength: 300, nullable: false),
                    left_out = table.Column<bool>(type: "boolean", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_routine_done", x => new { x.run_id, x.step, x.turn });
                    table.ForeignKey(
                        name: "fk_routine_done_routine_runs_run_id",
                        column: x => x.run_id,
                        principalTable: "routine_runs",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "team_tasks",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    text = table.Column<string>(type: "character varying(400)", maxLength: 400, nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    run_id = table.Column<long>(type: "bigint", nullable: true),
                    by = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false),
                    done_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    done_by = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_team_tasks", x => x.id);
                    table.ForeignKey(
                        name: "fk_team_tasks_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_team_tasks_routine_runs_run_id",
                        column: x => x.run_id,
                        principalTable: "routine_runs",
                        principalColumn: "id",
                        onDelete: ReferentialAction.SetNull);
                });

            migrationBuilder.CreateIndex(
                name: "ix_mailings_routine_id",
                table: "mailings",
                column: "routine_id");

            migrationBuilder.AddCheckConstraint(
                name: "ck_holdings_source_known",
                table: "holdings",
                sql: "\"source\" in ('Bought', 'Gift', 'Key', 'MovedIn', 'Arrival', 'Seat', 'Routine')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise', 'BeginHolding', 'PeopleBatch', 'EndSeats', 'EndPause', 'Settle', 'MovePrice', 'ChaseOrder', 'AskTransfer', 'SendVoucher', 'DisputeDecided', 'OwnerNews', 'OwnerMorning', 'CardExpiring', 'ForgetOrders', 'Mailing', 'RoutineHears', 'RoutineStep', 'RoutineDay', 'RoutineBegin')");

            migrationBuilder.CreateIndex(
                name: "ix_routine_runs_member_id",
                table: "routine_runs",
                column: "member_id");

            migrationBuilder.CreateIndex(
                name: "ix_routine_runs_open",
                table: "routine_runs",
                columns: new[] { "routine_id", "member_id" },
                unique: true,
                filter: "ended_at is null");

            migrationBuilder.CreateIndex(
                name: "ix_routine_runs_routine_id_begun_at",
                table: "routine_runs",
                columns: new[] { "routine_id", "begun_at" });

            migrationBuilder.CreateIndex(
                name: "ix_routine_triggers_routine_id",
                table: "routine_triggers",
                column: "routine_id");

            migrationBuilder.CreateIndex(
                name: "ix_routines_name",
                table: "routines",
                column: "name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_team_tasks_member_id",
                table: "team_tasks",
                column: "member_id");

            migrationBuilder.CreateIndex(
                name: "ix_team_tasks_open",
                table: "team_tasks",
                column: "at",
                filter: "done_at is null");

            migrationBuilder.CreateIndex(
                name: "ix_team_tasks_run_id",
                table: "team_tasks",
                column: "run_id");

            migrationBuilder.AddForeignKey(
                name: "fk_mailings_routines_routine_id",
                table: "mailings",
                column: "routine_id",
                principalTable: "routines",
                principalColumn: "id",
                onDelete: ReferentialAction.Cascade);

            migrationBuilder.Sql("""
                create trigger tell_catalogue after insert or update or delete on routines for each statement execute function tell_catalogue();

                -- What a routine listens for is put into what falls due by the journal itself, in the transaction that writes it, whoever does.
                create function tell_routines() returns trigger language plpgsql as $$
                begin
                  insert into due_work (id, kind, subject_id, turn, attempt, due_at, ready_at, key, payload, tries)
                  select nextval('ids'), 'RoutineHears', n.member_id, 0, 0, n.at, n.at, 'heard-' || n.id, jsonb_build_object('entry', n.id), 0
                  from written n where n.member_id is not null and exists (select 1 from routine_triggers t where t.kind = n.kind)
                  order by n.seq
                  on conflict (key) do nothing;
                  return null;
                end $$;
                create trigger tell_routines after insert on journal referencing new table as written for each statement execute function tell_routines();
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("drop trigger tell_routines on journal; drop function tell_routines();");

            migrationBuilder.DropForeignKey(
                name: "fk_mailings_routines_routine_id",
                table: "mailings");

            migrationBuilder.DropTable(
                name: "routine_done");

            migrationBuilder.DropTable(
                name: "routine_triggers");

            migrationBuilder.DropTable(
                name: "team_tasks");

            migrationBuilder.DropTable(
                name: "routine_runs");

            migrationBuilder.DropTable(
                name: "routines");

            migrationBuilder.DropIndex(
                name: "ix_mailings_routine_id",
                table: "mailings");

            migrationBuilder.DropCheckConstraint(
                name: "ck_holdings_source_known",
                table: "holdings");

            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

            migrationBuilder.DropColumn(
                name: "routine_id",
                table: "mailings");

            migrationBuilder.AddCheckConstraint(
                name: "ck_holdings_source_known",
                table: "holdings",
                sql: "\"source\" in ('Bought', 'Gift', 'Key', 'MovedIn', 'Arrival', 'Seat')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise', 'BeginHolding', 'PeopleBatch', 'EndSeats', 'EndPause', 'Settle', 'MovePrice', 'ChaseOrder', 'AskTransfer', 'SendVoucher', 'DisputeDecided', 'OwnerNews', 'OwnerMorning', 'CardExpiring', 'ForgetOrders', 'Mailing')");
        }
    }
}
