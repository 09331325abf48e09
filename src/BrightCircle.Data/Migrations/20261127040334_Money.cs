using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class Money : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropCheckConstraint(
                name: "ck_standing_counts_standing_known",
                table: "standing_counts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_standing_changes_from_known",
                table: "standing_changes");

            migrationBuilder.DropCheckConstraint(
                name: "ck_standing_changes_to_known",
                table: "standing_changes");

            migrationBuilder.DropCheckConstraint(
                name: "ck_payments_purpose_known",
                table: "payments");

            migrationBuilder.DropCheckConstraint(
                name: "ck_members_standing_known",
                table: "members");

            migrationBuilder.DropCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters");

            migrationBuilder.DropCheckConstraint(
                name: "ck_ledger_account_known",
                table: "ledger");

            migrationBuilder.DropIndex(
                name: "ux_holdings_one_at_a_time",
                table: "holdings");

            migrationBuilder.DropCheckConstraint(
                name: "ck_holding_facts_kind_known",
                table: "holding_facts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_holding_facts_reason_known",
                table: "holding_facts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

            migrationBuilder.DropCheckConstraint(
                name: "ck_checkouts_charge_purpose_known",
                table: "checkouts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_charge_asks_purpose_known",
                table: "charge_asks");

            migrationBuilder.AddColumn<bool>(
                name: "offers_on_leaving",
                table: "site",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<int[]>(
                name: "retry_days",
                table: "site",
                type: "integer[]",
                nullable: false,
                defaultValueSql: "'{1,3,5,7}'");

            migrationBuilder.AddColumn<string>(
                name: "buyers",
                table: "prices",
                type: "jsonb",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "is_highlighted",
                table: "prices",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<string>(
                name: "pause",
                table: "prices",
                type: "jsonb",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "text",
                table: "prices",
                type: "character varying(300)",
                maxLength: 300,
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<long>(
                name: "coupon_id",
                table: "payments",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "lines",
                table: "payments",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'[]'");

            migrationBuilder.AlterColumn<long>(
                name: "payment_id",
                table: "ledger",
                type: "bigint",
                nullable: true,
                oldClrType: typeof(long),
                oldType: "bigint");

            migrationBuilder.AddColumn<long>(
                name: "continues",
                table: "holdings",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "amount_currency",
                table: "holding_facts",
                type: "character(3)",
                fixedLength: true,
                maxLength: 3,
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "amount_minor",
                table: "holding_facts",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "amount_minor",
                table: "due_work",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<Instant>(
                name: "agreed_at",
                table: "checkouts",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "coupon",
                table: "checkouts",
                type: "jsonb",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "change",
                table: "charge_asks",
                type: "jsonb",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "lines",
                table: "charge_asks",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'[]'");

            migrationBuilder.CreateTable(
                name: "coupons",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    code = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    note = table.Column<string>(type: "character varying(200)", maxLength: 200, nullable: false),
                    off = table.Column<string>(type: "jsonb", nullable: false),
                    payments = table.Column<int>(type: "integer", nullable: true),
                    plans = table.Column<string>(type: "jsonb", nullable: false),
                    prices = table.Column<string>(type: "jsonb", nullable: false),
                    from = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    until = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    limit = table.Column<int>(type: "integer", nullable: true),
                    limit_each = table.Column<int>(type: "integer", nullable: true),
                    only_newcomers = table.Column<bool>(type: "boolean", nullable: false),
                    is_closed = table.Column<bool>(type: "boolean", nullable: false),
                    created_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_coupons", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "price_moves",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    from_price_id = table.Column<long>(type: "bigint", nullable: false),
                    to_price_id = table.Column<long>(type: "bigint", nullable: false),
                    on = table.Column<LocalDate>(type: "date", nullable: false),
                    made_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    by = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false),
                    told = table.Column<int>(type: "integer", nullable: false),
                    moved = table.Column<int>(type: "integer", nullable: false),
                    done_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    taken_back_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_price_moves", x => x.id);
                    table.ForeignKey(
                        name: "fk_price_moves_prices_from_price_id",
                        column: x => x.from_price_id,
                        principalTable: "prices",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_price_moves_prices_to_price_id",
                        column: x => x.to_price_id,
                        principalTable: "prices",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "coupon_uses",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    coupon_id = table.Column<long>(type: "bigint", nullable: false),
                    checkout_id = table.Column<long>(type: "bigint", nullable: false),
                    email = table.Column<string>(type: "character varying(254)", maxLength: 254, nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: true),
                    holding_id = table.Column<long>(type: "bigint", nullable: true),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    used_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_coupon_uses", x => x.id);
                    table.ForeignKey(
                        name: "fk_coupon_uses_checkouts_checkout_id",
                        column: x => x.checkout_id,
                        principalTable: "checkouts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_coupon_uses_coupons_coupon_id",
                        column: x => x.coupon_id,
                        principalTable: "coupons",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_coupon_uses_holdings_holding_id",
                        column: x => x.holding_id,
                        principalTable: "holdings",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_coupon_uses_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.AddCheckConstraint(
                name: "ck_standing_counts_standing_known",
                table: "standing_counts",
                sql: "\"standing\" in ('Guest', 'Trial', 'Active', 'Grace', 'Ending', 'Lapsed', 'Paused')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_standing_changes_from_known",
                table: "standing_changes",
                sql: "\"from\" in ('Guest', 'Trial', 'Active', 'Grace', 'Ending', 'Lapsed', 'Paused')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_standing_changes_to_known",
                table: "standing_changes",
                sql: "\"to\" in ('Guest', 'Trial', 'Active', 'Grace', 'Ending', 'Lapsed', 'Paused')");

            migrationBuilder.CreateIndex(
                name: "ix_payments_coupon_id",
                table: "payments",
                column: "coupon_id",
                filter: "coupon_id is not null");

            migrationBuilder.AddCheckConstraint(
                name: "ck_payments_purpose_known",
                table: "payments",
                sql: "\"purpose\" in ('Trial', 'Once', 'Recurring', 'Instalment', 'Rest')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_members_standing_known",
                table: "members",
                sql: "\"standing\" in ('Guest', 'Trial', 'Active', 'Grace', 'Ending', 'Lapsed', 'Paused')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters",
                sql: "\"kind\" in ('Welcome', 'SignIn', 'Receipt', 'Edition', 'PaymentFailed', 'Ending', 'Lapsed', 'Refund', 'Place', 'Answered', 'Marked', 'Confirm', 'HasAccount', 'Seat', 'Covered', 'Changed', 'Paused', 'Closed', 'PriceTold')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_ledger_account_known",
                table: "ledger",
                sql: "\"account\" in ('Member', 'Income', 'Refunds', 'Cash', 'Credit')");

            migrationBuilder.CreateIndex(
                name: "ix_holdings_continues",
                table: "holdings",
                column: "continues");

            migrationBuilder.CreateIndex(
                name: "ux_holdings_one_at_a_time",
                table: "holdings",
                columns: new[] { "member_id", "plan_id" },
                unique: true,
                filter: "not is_over and continues is null");

            migrationBuilder.AddCheckConstraint(
                name: "ck_holding_facts_credit",
                table: "holding_facts",
                sql: "kind <> 'Credit' or amount_minor is not null");

            migrationBuilder.AddCheckConstraint(
                name: "ck_holding_facts_kind_known",
                table: "holding_facts",
                sql: "\"kind\" in ('Paid', 'Trial', 'Given', 'Grace', 'Leaving', 'Staying', 'Missed', 'Waived', 'Moved', 'Ended', 'Planned', 'Closed', 'Paused', 'Resumed', 'Credit')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_holding_facts_reason_known",
                table: "holding_facts",
                sql: "\"reason\" in ('Left', 'Lapsed', 'RanOut', 'Replaced', 'EndedByTeam', 'Refunded', 'ChargedBack', 'SeatFreed', 'GroupOver', 'TakenBack')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise', 'BeginHolding', 'PeopleBatch', 'EndSeats', 'EndPause', 'Settle', 'MovePrice')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_checkouts_charge_purpose_known",
                table: "checkouts",
                sql: "\"charge_purpose\" in ('Trial', 'Once', 'Recurring', 'Instalment', 'Rest')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_charge_asks_purpose_known",
                table: "charge_asks",
                sql: "\"purpose\" in ('Trial', 'Once', 'Recurring', 'Instalment', 'Rest')");

            migrationBuilder.CreateIndex(
                name: "ix_coupon_uses_checkout_id",
                table: "coupon_uses",
                column: "checkout_id",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_coupon_uses_coupon_id_used_at",
                table: "coupon_uses",
                columns: new[] { "coupon_id", "used_at" });

            migrationBuilder.CreateIndex(
                name: "ix_coupon_uses_holding_id",
                table: "coupon_uses",
                column: "holding_id");

            migrationBuilder.CreateIndex(
                name: "ix_coupon_uses_member_id",
                table: "coupon_uses",
                column: "member_id");

            migrationBuilder.CreateIndex(
                name: "ix_coupons_code",
                table: "coupons",
                column: "code",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_price_moves_from_price_id",
                table: "price_moves",
                column: "from_price_id");

            migrationBuilder.CreateIndex(
                name: "ix_price_moves_to_price_id",
                table: "price_moves",
                column: "to_price_id");

            migrationBuilder.AddForeignKey(
                name: "fk_holdings_holdings_continues",
                table: "holdings",
                column: "continues",
                principalTable: "holdings",
                principalColumn: "id",
                onDelete: ReferentialAction.Restrict);

            migrationBuilder.AddForeignKey(
                name: "fk_payments_coupons_coupon_id",
                table: "payments",
                column: "coupon_id",
                principalTable: "coupons",
                principalColumn: "id",
                onDelete: ReferentialAction.Restrict);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(
                name: "fk_holdings_holdings_continues",
                table: "holdings");

            migrationBuilder.DropForeignKey(
                name: "fk_payments_coupons_coupon_id",
                table: "payments");

            migrationBuilder.DropTable(
                name: "coupon_uses");

            migrationBuilder.DropTable(
                name: "price_moves");

            migrationBuilder.DropTable(
                name: "coupons");

            migrationBuilder.DropCheckConstraint(
                name: "ck_standing_counts_standing_known",
                table: "standing_counts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_standing_changes_from_known",
                table: "standing_changes");

            migrationBuilder.DropCheckConstraint(
                name: "ck_standing_changes_to_known",
                table: "standing_changes");

            migrationBuilder.DropIndex(
                name: "ix_payments_coupon_id",
                table: "payments");

            migrationBuilder.DropCheckConstraint(
                name: "ck_payments_purpose_known",
                table: "payments");

            migrationBuilder.DropCheckConstraint(
                name: "ck_members_standing_known",
                table: "members");

            migrationBuilder.DropCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters");

            migrationBuilder.DropCheckConstraint(
                name: "ck_ledger_account_known",
                table: "ledger");

            migrationBuilder.DropIndex(
                name: "ix_holdings_continues",
                table: "holdings");

            migrationBuilder.DropIndex(
                name: "ux_holdings_one_at_a_time",
                table: "holdings");

            migrationBuilder.DropCheckConstraint(
                name: "ck_holding_facts_credit",
                table: "holding_facts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_holding_facts_kind_known",
                table: "holding_facts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_holding_facts_reason_known",
                table: "holding_facts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

            migrationBuilder.DropCheckConstraint(
                name: "ck_checkouts_charge_purpose_known",
                table: "checkouts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_charge_asks_purpose_known",
                table: "charge_asks");

            migrationBuilder.DropColumn(
                name: "offers_on_leaving",
                table: "site");

            migrationBuilder.DropColumn(
                name: "retry_days",
                table: "site");

            migrationBuilder.DropColumn(
                name: "buyers",
                table: "prices");

            migrationBuilder.DropColumn(
                name: "is_highlighted",
                table: "prices");

            migrationBuilder.DropColumn(
                name: "pause",
                table: "prices");

            migrationBuilder.DropColumn(
                name: "text",
                table: "prices");

            migrationBuilder.DropColumn(
                name: "coupon_id",
                table: "payments");

            migrationBuilder.DropColumn(
                name: "lines",
                table: "payments");

            migrationBuilder.DropColumn(
                name: "continues",
                table: "holdings");

            migrationBuilder.DropColumn(
                name: "amount_currency",
                table: "holding_facts");

            migrationBuilder.DropColumn(
                name: "amount_minor",
                table: "holding_facts");

            migrationBuilder.DropColumn(
                name: "amount_minor",
                table: "due_work");

            migrationBuilder.DropColumn(
                name: "agreed_at",
                table: "checkouts");

            migrationBuilder.DropColumn(
                name: "coupon",
                table: "checkouts");

            migrationBuilder.DropColumn(
                name: "change",
                table: "charge_asks");

            migrationBuilder.DropColumn(
                name: "lines",
                table: "charge_asks");

            migrationBuilder.AlterColumn<long>(
                name: "payment_id",
                table: "ledger",
                type: "bigint",
                nullable: false,
                defaultValue: 0L,
                oldClrType: typeof(long),
                oldType: "bigint",
                oldNullable: true);

            migrationBuilder.AddCheckConstraint(
                name: "ck_standing_counts_standing_known",
                table: "standing_counts",
                sql: "\"standing\" in ('Guest', 'Trial', 'Active', 'Grace', 'Ending', 'Lapsed')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_standing_changes_from_known",
                table: "standing_changes",
                sql: "\"from\" in ('Guest', 'Trial', 'Active', 'Grace', 'Ending', 'Lapsed')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_standing_changes_to_known",
                table: "standing_changes",
                sql: "\"to\" in ('Guest', 'Trial', 'Active', 'Grace', 'Ending', 'Lapsed')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_payments_purpose_known",
                table: "payments",
                sql: "\"purpose\" in ('Trial', 'Once', 'Recurring')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_members_standing_known",
                table: "members",
                sql: "\"standing\" in ('Guest', 'Trial', 'Active', 'Grace', 'Ending', 'Lapsed')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters",
                sql: "\"kind\" in ('Welcome', 'SignIn', 'Receipt', 'Edition', 'PaymentFailed', 'Ending', 'Lapsed', 'Refund', 'Place', 'Answered', 'Marked', 'Confirm', 'HasAccount', 'Seat')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_ledger_account_known",
                table: "ledger",
                sql: "\"account\" in ('Member', 'Income', 'Refunds', 'Cash')");

            migrationBuilder.CreateIndex(
                name: "ux_holdings_one_at_a_time",
                table: "holdings",
                columns: new[] { "member_id", "plan_id" },
                unique: true,
                filter: "not is_over");

            migrationBuilder.AddCheckConstraint(
                name: "ck_holding_facts_kind_known",
                table: "holding_facts",
                sql: "\"kind\" in ('Paid', 'Trial', 'Given', 'Grace', 'Leaving', 'Staying', 'Missed', 'Waived', 'Moved', 'Ended')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_holding_facts_reason_known",
                table: "holding_facts",
                sql: "\"reason\" in ('Left', 'Lapsed', 'RanOut', 'Replaced', 'EndedByTeam', 'Refunded', 'ChargedBack', 'SeatFreed', 'GroupOver')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise', 'BeginHolding', 'PeopleBatch', 'EndSeats')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_checkouts_charge_purpose_known",
                table: "checkouts",
                sql: "\"charge_purpose\" in ('Trial', 'Once', 'Recurring')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_charge_asks_purpose_known",
                table: "charge_asks",
                sql: "\"purpose\" in ('Trial', 'Once', 'Recurring')");
        }
    }
}
