using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class Promises : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropCheckConstraint(
                name: "ck_holding_facts_kind_known",
                table: "holding_facts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

            migrationBuilder.AddColumn<string>(
                name: "pace_of",
                table: "plans",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'{}'");

            migrationBuilder.AddColumn<Instant>(
                name: "promise_from",
                table: "plans",
                type: "timestamp with time zone",
                nullable: false,
                defaultValue: NodaTime.Instant.FromUnixTimeTicks(0L));

            migrationBuilder.AddColumn<int>(
                name: "promise_number",
                table: "plans",
                type: "integer",
                nullable: false,
                defaultValue: 1);

            migrationBuilder.AddColumn<bool>(
                name: "hides_coming",
                table: "pieces",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<bool>(
                name: "open_to_all",
                table: "pieces",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<string>(
                name: "window",
                table: "pieces",
                type: "jsonb",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "step",
                table: "modules",
                type: "integer",
                nullable: false,
                defaultValue: -1);

            migrationBuilder.AddColumn<int>(
                name: "step",
                table: "lessons",
                type: "integer",
                nullable: false,
                defaultValue: -1);

            migrationBuilder.AddColumn<string>(
                name: "window",
                table: "lessons",
                type: "jsonb",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "all_at_once",
                table: "holdings",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<int>(
                name: "promise_number",
                table: "holdings",
                type: "integer",
                nullable: false,
                defaultValue: 1);

            migrationBuilder.AddColumn<int>(
                name: "promise",
                table: "holding_facts",
                type: "integer",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "cohorts",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    piece_id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "character varying(80)", maxLength: 80, nullable: false),
                    starts_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_cohorts", x => x.id);
                    table.ForeignKey(
                        name: "fk_cohorts_pieces_piece_id",
                        column: x => x.piece_id,
                        principalTable: "pieces",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "promise_moves",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    plan_id = table.Column<long>(type: "bigint", nullable: false),
                    to = table.Column<int>(type: "integer", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    by = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false),
                    moved = table.Column<int>(type: "integer", nullable: false),
                    done = table.Column<bool>(type: "boolean", nullable: false),
                    taken_back_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_promise_moves", x => x.id);
                    table.ForeignKey(
                        name: "fk_promise_moves_plans_plan_id",
                        column: x => x.plan_id,
                        principalTable: "plans",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "promise_versions",
                columns: table => new
                {
                    plan_id = table.Column<long>(type: "bigint", nullable: false),
                    number = table.Column<int>(type: "integer", nullable: false),
                    from = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    promise = table.Column<string>(type: "jsonb", nullable: false),
                    pace_of = table.Column<string>(type: "jsonb", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_promise_versions", x => new { x.plan_id, x.number });
                    table.ForeignKey(
                        name: "fk_promise_versions_plans_plan_id",
                        column: x => x.plan_id,
                        principalTable: "plans",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "cohort_members",
                columns: table => new
                {
                    cohort_id = table.Column<long>(type: "bigint", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_cohort_members", x => new { x.cohort_id, x.member_id });
                    table.ForeignKey(
                        name: "fk_cohort_members_cohorts_cohort_id",
                        column: x => x.cohort_id,
                        principalTable: "cohorts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_cohort_members_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "piece_paces",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    piece_id = table.Column<long>(type: "bigint", nullable: false),
                    plan_id = table.Column<long>(type: "bigint", nullable: true),
                    price_id = table.Column<long>(type: "bigint", nullable: true),
                    cohort_id = table.Column<long>(type: "bigint", nullable: true),
                    pace = table.Column<string>(type: "jsonb", nullable: false),
                    moves = table.Column<string>(type: "jsonb", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_piece_paces", x => x.id);
                    table.ForeignKey(
                        name: "fk_piece_paces_cohorts_cohort_id",
                        column: x => x.cohort_id,
                        principalTable: "cohorts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_piece_paces_pieces_piece_id",
                        column: x => x.piece_id,
                        principalTable: "pieces",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_piece_paces_plans_plan_id",
                        column: x => x.plan_id,
                        principalTable: "plans",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_piece_paces_prices_price_id",
                        column: x => x.price_id,
                        principalTable: "prices",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.AddCheckConstraint(
                name: "ck_holding_facts_kind_known",
                table: "holding_facts",
                sql: "\"kind\" in ('Paid', 'Trial', 'Given', 'Grace', 'Leaving', 'Staying', 'Missed', 'Waived', 'Moved', 'Ended')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_holding_facts_promise",
                table: "holding_facts",
                sql: "(kind = 'Moved') = (promise is not null)");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise')");

            migrationBuilder.CreateIndex(
                name: "ix_cohort_members_member_id",
                table: "cohort_members",
                column: "member_id");

            migrationBuilder.CreateIndex(
                name: "ix_cohorts_piece_id_name",
                table: "cohorts",
                columns: new[] { "piece_id", "name" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_piece_paces_cohort_id",
                table: "piece_paces",
                column: "cohort_id");

            migrationBuilder.CreateIndex(
                name: "ix_piece_paces_piece_id_plan_id_price_id_cohort_id",
                table: "piece_paces",
                columns: new[] { "piece_id", "plan_id", "price_id", "cohort_id" },
                unique: true)
                .Annotation("Npgsql:NullsDistinct", false);

            migrationBuilder.CreateIndex(
                name: "ix_piece_paces_plan_id",
                table: "piece_paces",
                column: "plan_id");

            migrationBuilder.CreateIndex(
                name: "ix_piece_paces_price_id",
                table: "piece_paces",
                column: "price_id");

            migrationBuilder.CreateIndex(
                name: "ix_promise_moves_plan_id",
                table: "promise_moves",
                column: "plan_id");

            migrationBuilder.Sql("""
                update plans set promise_from = created_at;
                create trigger tell_catalogue after insert or update or delete on promise_versions for each statement execute function tell_catalogue();
                create trigger tell_catalogue after insert or update or delete on piece_paces for each statement execute function tell_catalogue();
                create trigger tell_catalogue after insert or update or delete on cohorts for each statement execute function tell_catalogue();
                create trigger append_only before update or delete on promise_versions for each row execute function refuse_change();
                create trigger never_emptied before truncate on promise_versions for each statement execute function refuse_change();
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "cohort_members");

            migrationBuilder.DropTable(
                name: "piece_paces");

            migrationBuilder.DropTable(
                name: "promise_moves");

            migrationBuilder.DropTable(
                name: "promise_versions");

            migrationBuilder.DropTable(
                name: "cohorts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_holding_facts_kind_known",
                table: "holding_facts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_holding_facts_promise",
                table: "holding_facts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

            migrationBuilder.DropColumn(
                name: "pace_of",
                table: "plans");

            migrationBuilder.DropColumn(
                name: "promise_from",
                table: "plans");

            migrationBuilder.DropColumn(
                name: "promise_number",
                table: "plans");

            migrationBuilder.DropColumn(
                name: "hides_coming",
                table: "pieces");

            migrationBuilder.DropColumn(
                name: "open_to_all",
                table: "pieces");

            migrationBuilder.DropColumn(
                name: "window",
                table: "pieces");

            migrationBuilder.DropColumn(
                name: "step",
                table: "modules");

            migrationBuilder.DropColumn(
                name: "step",
                table: "lessons");

            migrationBuilder.DropColumn(
                name: "window",
                table: "lessons");

            migrationBuilder.DropColumn(
                name: "all_at_once",
                table: "holdings");

            migrationBuilder.DropColumn(
                name: "promise_number",
                table: "holdings");

            migrationBuilder.DropColumn(
                name: "promise",
                table: "holding_facts");

            migrationBuilder.AddCheckConstraint(
                name: "ck_holding_facts_kind_known",
                table: "holding_facts",
                sql: "\"kind\" in ('Paid', 'Trial', 'Given', 'Grace', 'Leaving', 'Staying', 'Missed', 'Waived', 'Ended')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex')");
        }
    }
}
