using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class Rights : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters");

            migrationBuilder.DropCheckConstraint(
                name: "ck_holdings_source_known",
                table: "holdings");

            migrationBuilder.DropCheckConstraint(
                name: "ck_holding_facts_reason_known",
                table: "holding_facts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

            migrationBuilder.AddColumn<long>(
                name: "arrival_plan_id",
                table: "site",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "seats",
                table: "holdings",
                type: "integer",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "through",
                table: "holdings",
                type: "bigint",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "group_seats",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    holding_id = table.Column<long>(type: "bigint", nullable: false),
                    email = table.Column<string>(type: "character varying(254)", maxLength: 254, nullable: false),
                    code = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    invited_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: true),
                    taken_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    freed_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_group_seats", x => x.id);
                    table.ForeignKey(
                        name: "fk_group_seats_holdings_holding_id",
                        column: x => x.holding_id,
                        principalTable: "holdings",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_group_seats_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "key_links",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    code = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    plan_id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false),
                    paid_elsewhere = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false),
                    most = table.Column<int>(type: "integer", nullable: true),
                    ends_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    open_until = table.Column<LocalDate>(type: "date", nullable: true),
                    all_at_once = table.Column<bool>(type: "boolean", nullable: false),
                    made_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    made_by = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false),
                    revoked_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_key_links", x => x.id);
                    table.CheckConstraint("ck_key_links_most", "most is null or most between 1 and 100000");
                    table.ForeignKey(
                        name: "fk_key_links_plans_plan_id",
                        column: x => x.plan_id,
                        principalTable: "plans",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "people_batches",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    kind = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    by = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false),
                    terms = table.Column<string>(type: "jsonb", nullable: false),
                    members = table.Column<long[]>(type: "bigint[]", nullable: false),
                    source = table.Column<string>(type: "text", nullable: false),
                    total = table.Column<int>(type: "integer", nullable: false),
                    next = table.Column<int>(type: "integer", nullable: false),
                    did = table.Column<int>(type: "integer", nullable: false),
                    already = table.Column<int>(type: "integer", nullable: false),
                    refused = table.Column<string[]>(type: "text[]", nullable: false),
                    done_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_people_batches", x => x.id);
                    table.CheckConstraint("ck_people_batches_kind_known", "\"kind\" in ('Gifts', 'MoveIn')");
                });

            migrationBuilder.CreateIndex(
                name: "ix_site_arrival_plan_id",
                table: "site",
                column: "arrival_plan_id");

            migrationBuilder.AddCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters",
                sql: "\"kind\" in ('Welcome', 'SignIn', 'Receipt', 'Edition', 'PaymentFailed', 'Ending', 'Lapsed', 'Refund', 'Place', 'Answered', 'Marked', 'Confirm', 'HasAccount', 'Seat')");

            migrationBuilder.CreateIndex(
                name: "ix_holdings_through",
                table: "holdings",
                column: "through",
                filter: "through is not null");

            migrationBuilder.AddCheckConstraint(
                name: "ck_holdings_source_known",
                table: "holdings",
                sql: "\"source\" in ('Bought', 'Gift', 'Key', 'MovedIn', 'Arrival', 'Seat')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_holding_facts_reason_known",
                table: "holding_facts",
                sql: "\"reason\" in ('Left', 'Lapsed', 'RanOut', 'Replaced', 'EndedByTeam', 'Refunded', 'ChargedBack', 'SeatFreed', 'GroupOver')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise', 'BeginHolding', 'PeopleBatch', 'EndSeats')");

            migrationBuilder.CreateIndex(
                name: "ix_group_seats_code",
                table: "group_seats",
                column: "code",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_group_seats_holding_id",
                table: "group_seats",
                column: "holding_id");

            migrationBuilder.CreateIndex(
                name: "ix_group_seats_member_id",
                table: "group_seats",
                column: "member_id");

            migrationBuilder.CreateIndex(
                name: "ix_key_links_code",
                table: "key_links",
                column: "code",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_key_links_plan_id",
                table: "key_links",
                column: "plan_id");

            migrationBuilder.CreateIndex(
                name: "ix_people_batches_at",
                table: "people_batches",
                column: "at");

            migrationBuilder.AddForeignKey(
                name: "fk_site_plans_arrival_plan_id",
                table: "site",
                column: "arrival_plan_id",
                principalTable: "plans",
                principalColumn: "id",
                onDelete: ReferentialAction.Restrict);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(
                name: "fk_site_plans_arrival_plan_id",
                table: "site");

            migrationBuilder.DropTable(
                name: "group_seats");

            migrationBuilder.DropTable(
                name: "key_links");

            migrationBuilder.DropTable(
                name: "people_batches");

            migrationBuilder.DropIndex(
                name: "ix_site_arrival_plan_id",
                table: "site");

            migrationBuilder.DropCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters");

            migrationBuilder.DropIndex(
                name: "ix_holdings_through",
                table: "holdings");

            migrationBuilder.DropCheckConstraint(
                name: "ck_holdings_source_known",
                table: "holdings");

            migrationBuilder.DropCheckConstraint(
                name: "ck_holding_facts_reason_known",
                table: "holding_facts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

            migrationBuilder.DropColumn(
                name: "arrival_plan_id",
                table: "site");

            migrationBuilder.DropColumn(
                name: "seats",
                table: "holdings");

            migrationBuilder.DropColumn(
                name: "through",
                table: "holdings");

            migrationBuilder.AddCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters",
                sql: "\"kind\" in ('Welcome', 'SignIn', 'Receipt', 'Edition', 'PaymentFailed', 'Ending', 'Lapsed', 'Refund', 'Place', 'Answered', 'Marked', 'Confirm', 'HasAccount')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_holdings_source_known",
                table: "holdings",
                sql: "\"source\" in ('Bought', 'Gift')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_holding_facts_reason_known",
                table: "holding_facts",
                sql: "\"reason\" in ('Left', 'Lapsed', 'RanOut', 'Replaced', 'EndedByTeam', 'Refunded', 'ChargedBack')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise')");
        }
    }
}
