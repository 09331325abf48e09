using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class Orders : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropCheckConstraint(
                name: "ck_payments_to_look_at_concern_known",
                table: "payments_to_look_at");

            migrationBuilder.DropCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters");

            migrationBuilder.DropCheckConstraint(
                name: "ck_ledger_account_known",
                table: "ledger");

            migrationBuilder.DropCheckConstraint(
                name: "ck_holding_facts_reason_known",
                table: "holding_facts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

            migrationBuilder.DropCheckConstraint(
                name: "ck_checkouts_state_known",
                table: "checkouts");

            migrationBuilder.AddColumn<string>(
                name: "owner_letters",
                table: "site",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'{}'");

            migrationBuilder.AddColumn<long>(
                name: "terms_page_id",
                table: "site",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "ways",
                table: "site",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'[{\"way\":\"card\",\"name\":\"Card\"}]'");

            migrationBuilder.AddColumn<bool>(
                name: "as_voucher",
                table: "prices",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<string>(
                name: "extra",
                table: "prices",
                type: "jsonb",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "not_by",
                table: "prices",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'[]'");

            migrationBuilder.AlterColumn<long>(
                name: "holding_id",
                table: "payments",
                type: "bigint",
                nullable: true,
                oldClrType: typeof(long),
                oldType: "bigint");

            migrationBuilder.AddColumn<long>(
                name: "order_id",
                table: "payments",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "way",
                table: "payments",
                type: "character varying(40)",
                maxLength: 40,
                nullable: false,
                defaultValue: "Card");

            migrationBuilder.AddColumn<string>(
                name: "billing_address",
                table: "members",
                type: "character varying(400)",
                maxLength: 400,
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<long>(
                name: "order_id",
                table: "key_links",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "price_id",
                table: "key_links",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "way",
                table: "holdings",
                type: "character varying(40)",
                maxLength: 40,
                nullable: false,
                defaultValue: "Card");

            migrationBuilder.AddColumn<Instant>(
                name: "until",
                table: "coupon_uses",
                type: "timestamp with time zone",
                nullable: false,
                defaultValue: NodaTime.Instant.FromUnixTimeTicks(0L));

            migrationBuilder.AddColumn<string>(
                name: "extras",
                table: "checkouts",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'[]'");

            migrationBuilder.AddColumn<Instant>(
                name: "open_until",
                table: "checkouts",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<Instant>(
                name: "placed_at",
                table: "checkouts",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "reference",
                table: "checkouts",
                type: "character varying(25)",
                maxLength: 25,
                nullable: true);

            migrationBuilder.AddColumn<Instant>(
                name: "reminded_at",
                table: "checkouts",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "terms_page_id",
                table: "checkouts",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "terms_version",
                table: "checkouts",
                type: "integer",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "voucher",
                table: "checkouts",
                type: "jsonb",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "way",
                table: "checkouts",
                type: "character varying(40)",
                maxLength: 40,
                nullable: false,
                defaultValue: "Card");

            migrationBuilder.AddColumn<LocalDate>(
                name: "good_until",
                table: "cards",
                type: "date",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "checkout_sessions",
                columns: table => new
                {
                    session = table.Column<string>(type: "character varying(80)", maxLength: 80, nullable: false),
                    checkout_id = table.Column<long>(type: "bigint", nullable: false),
                    opened_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    asked_minor = table.Column<long>(type: "bigint", nullable: true),
                    asked_currency = table.Column<string>(type: "character varying(3)", maxLength: 3, nullable: true),
                    coupon = table.Column<string>(type: "jsonb", nullable: true),
                    extras = table.Column<string>(type: "jsonb", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_checkout_sessions", x => x.session);
                    table.ForeignKey(
                        name: "fk_checkout_sessions_checkouts_checkout_id",
                        column: x => x.checkout_id,
                        principalTable: "checkouts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "disputes",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    payment_id = table.Column<long>(type: "bigint", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    @ref = table.Column<string>(name: "ref", type: "character varying(80)", maxLength: 80, nullable: false),
                    opened_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    answer_by = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    reason = table.Column<string>(type: "character varying(200)", maxLength: 200, nullable: false),
                    state = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    answer = table.Column<string>(type: "character varying(4000)", maxLength: 4000, nullable: true),
                    answered_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    answered_by = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: true),
                    decided_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    currency = table.Column<string>(type: "character(3)", fixedLength: true, maxLength: 3, nullable: false),
                    amount_minor = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_disputes", x => x.id);
                    table.CheckConstraint("ck_disputes_amount", "amount_minor > 0");
                    table.CheckConstraint("ck_disputes_state_known", "\"state\" in ('Open', 'Answered', 'Won', 'Lost')");
                    table.ForeignKey(
                        name: "fk_disputes_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_disputes_payments_payment_id",
                        column: x => x.payment_id,
                        principalTable: "payments",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "terms_texts",
                columns: table => new
                {
                    page_id = table.Column<long>(type: "bigint", nullable: false),
                    version = table.Column<int>(type: "integer", nullable: false),
                    title = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false),
                    sections = table.Column<string>(type: "jsonb", nullable: false),
                    from = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_terms_texts", x => new { x.page_id, x.version });
                });

            migrationBuilder.CreateIndex(
                name: "ix_site_terms_page_id",
                table: "site",
                column: "terms_page_id");

            migrationBuilder.AddCheckConstraint(
                name: "ck_payments_to_look_at_concern_known",
                table: "payments_to_look_at",
                sql: "\"concern\" in ('TakenDiffers', 'Dispute', 'DisputeAfterRefund', 'DisputeOfUnknown', 'ChargeRefused', 'FirstPaymentFailed', 'DisputeWon')");

            migrationBuilder.CreateIndex(
                name: "ix_payments_order_id",
                table: "payments",
                column: "order_id",
                filter: "order_id is not null");

            migrationBuilder.AddCheckConstraint(
                name: "ck_payments_way_known",
                table: "payments",
                sql: "\"way\" in ('Card', 'Transfer', 'Elsewhere')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters",
                sql: "\"kind\" in ('Welcome', 'SignIn', 'Receipt', 'Edition', 'PaymentFailed', 'Ending', 'Lapsed', 'Refund', 'Place', 'Answered', 'Marked', 'Confirm', 'HasAccount', 'Seat', 'Covered', 'Changed', 'Paused', 'Closed', 'PriceTold', 'Credited', 'OrderPlaced', 'PaymentWanted', 'OrderReminder', 'OrderOver', 'Voucher', 'VoucherFor', 'CardRunsOut', 'OwnerNews')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_ledger_account_known",
                table: "ledger",
                sql: "\"account\" in ('Member', 'Income', 'Refunds', 'Cash', 'Credit', 'Bank')");

            migrationBuilder.CreateIndex(
                name: "ix_key_links_order_id",
                table: "key_links",
                column: "order_id",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_key_links_price_id",
                table: "key_links",
                column: "price_id");

            migrationBuilder.AddCheckConstraint(
                name: "ck_holdings_way_known",
                table: "holdings",
                sql: "\"way\" in ('Card', 'Transfer', 'Elsewhere')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_holding_facts_reason_known",
                table: "holding_facts",
                sql: "\"reason\" in ('Left', 'Lapsed', 'RanOut', 'Replaced', 'EndedByTeam', 'Refunded', 'ChargedBack', 'SeatFreed', 'GroupOver', 'TakenBack', 'CalledOff')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise', 'BeginHolding', 'PeopleBatch', 'EndSeats', 'EndPause', 'Settle', 'MovePrice', 'ChaseOrder', 'AskTransfer', 'SendVoucher', 'DisputeDecided', 'OwnerNews', 'CardExpiring', 'ForgetOrders')");

            migrationBuilder.CreateIndex(
                name: "ix_checkouts_browser_hash",
                table: "checkouts",
                column: "browser_hash",
                filter: "browser_hash is not null");

            migrationBuilder.CreateIndex(
                name: "ix_checkouts_reference",
                table: "checkouts",
                column: "reference",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_checkouts_state_created_at",
                table: "checkouts",
                columns: new[] { "state", "created_at" });

            migrationBuilder.AddCheckConstraint(
                name: "ck_checkouts_state_known",
                table: "checkouts",
                sql: "\"state\" in ('Open', 'Completed', 'Placed', 'Expired', 'CalledOff')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_checkouts_way_known",
                table: "checkouts",
                sql: "\"way\" in ('Card', 'Transfer', 'Elsewhere')");

            migrationBuilder.CreateIndex(
                name: "ix_checkout_sessions_checkout_id",
                table: "checkout_sessions",
                column: "checkout_id");

            migrationBuilder.CreateIndex(
                name: "ix_disputes_member_id",
                table: "disputes",
                column: "member_id");

            migrationBuilder.CreateIndex(
                name: "ix_disputes_payment_id",
                table: "disputes",
                column: "payment_id");

            migrationBuilder.CreateIndex(
                name: "ix_disputes_ref",
                table: "disputes",
                column: "ref",
                unique: true);

            migrationBuilder.AddForeignKey(
                name: "fk_key_links_checkouts_order_id",
                table: "key_links",
                column: "order_id",
                principalTable: "checkouts",
                principalColumn: "id",
                onDelete: ReferentialAction.Restrict);

            migrationBuilder.AddForeignKey(
                name: "fk_key_links_prices_price_id",
                table: "key_links",
                column: "price_id",
                principalTable: "prices",
                principalColumn: "id",
                onDelete: ReferentialAction.Restrict);

            migrationBuilder.AddForeignKey(
                name: "fk_payments_checkouts_order_id",
                table: "payments",
                column: "order_id",
                principalTable: "checkouts",
                principalColumn: "id",
                onDelete: ReferentialAction.Restrict);

            migrationBuilder.AddForeignKey(
                name: "fk_site_site_pages_terms_page_id",
                table: "site",
                column: "terms_page_id",
                principalTable: "site_pages",
                principalColumn: "id",
                onDelete: ReferentialAction.SetNull);

            // A use of a coupon is kept as long as was said when it was kept; pages of the payment service that stand open are known each by itself.
            migrationBuilder.Sql("""
                update coupon_uses set until = at + interval '24 hours';
                insert into checkout_sessions (session, checkout_id, opened_at, asked_minor, asked_currency, coupon, extras)
                select session, id, coalesce(agreed_at, created_at), asked_minor, asked_currency, coupon, '[]' from checkouts where session is not null;
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(
                name: "fk_key_links_checkouts_order_id",
                table: "key_links");

            migrationBuilder.DropForeignKey(
                name: "fk_key_links_prices_price_id",
                table: "key_links");

            migrationBuilder.DropForeignKey(
                name: "fk_payments_checkouts_order_id",
                table: "payments");

            migrationBuilder.DropForeignKey(
                name: "fk_site_site_pages_terms_page_id",
                table: "site");

            migrationBuilder.DropTable(
                name: "checkout_sessions");

            migrationBuilder.DropTable(
                name: "disputes");

            migrationBuilder.DropTable(
                name: "terms_texts");

            migrationBuilder.DropIndex(
                name: "ix_site_terms_page_id",
                table: "site");

            migrationBuilder.DropCheckConstraint(
                name: "ck_payments_to_look_at_concern_known",
                table: "payments_to_look_at");

            migrationBuilder.DropIndex(
                name: "ix_payments_order_id",
                table: "payments");

            migrationBuilder.DropCheckConstraint(
                name: "ck_payments_way_known",
                table: "payments");

            migrationBuilder.DropCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters");

            migrationBuilder.DropCheckConstraint(
                name: "ck_ledger_account_known",
                table: "ledger");

            migrationBuilder.DropIndex(
                name: "ix_key_links_order_id",
                table: "key_links");

            migrationBuilder.DropIndex(
                name: "ix_key_links_price_id",
                table: "key_links");

            migrationBuilder.DropCheckConstraint(
                name: "ck_holdings_way_known",
                table: "holdings");

            migrationBuilder.DropCheckConstraint(
                name: "ck_holding_facts_reason_known",
                table: "holding_facts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

            migrationBuilder.DropIndex(
                name: "ix_checkouts_browser_hash",
                table: "checkouts");

            migrationBuilder.DropIndex(
                name: "ix_checkouts_reference",
                table: "checkouts");

            migrationBuilder.DropIndex(
                name: "ix_checkouts_state_created_at",
                table: "checkouts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_checkouts_state_known",
                table: "checkouts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_checkouts_way_known",
                table: "checkouts");

            migrationBuilder.DropColumn(
                name: "owner_letters",
                table: "site");

            migrationBuilder.DropColumn(
                name: "terms_page_id",
                table: "site");

            migrationBuilder.DropColumn(
                name: "ways",
                table: "site");

            migrationBuilder.DropColumn(
                name: "as_voucher",
                table: "prices");

            migrationBuilder.DropColumn(
                name: "extra",
                table: "prices");

            migrationBuilder.DropColumn(
                name: "not_by",
                table: "prices");

            migrationBuilder.DropColumn(
                name: "order_id",
                table: "payments");

            migrationBuilder.DropColumn(
                name: "way",
                table: "payments");

            migrationBuilder.DropColumn(
                name: "billing_address",
                table: "members");

            migrationBuilder.DropColumn(
                name: "order_id",
                table: "key_links");

            migrationBuilder.DropColumn(
                name: "price_id",
                table: "key_links");

            migrationBuilder.DropColumn(
                name: "way",
                table: "holdings");

            migrationBuilder.DropColumn(
                name: "until",
                table: "coupon_uses");

            migrationBuilder.DropColumn(
                name: "extras",
                table: "checkouts");

            migrationBuilder.DropColumn(
                name: "open_until",
                table: "checkouts");

            migrationBuilder.DropColumn(
                name: "placed_at",
                table: "checkouts");

            migrationBuilder.DropColumn(
                name: "reference",
                table: "checkouts");

            migrationBuilder.DropColumn(
                name: "reminded_at",
                table: "checkouts");

            migrationBuilder.DropColumn(
                name: "terms_page_id",
                table: "checkouts");

            migrationBuilder.DropColumn(
                name: "terms_version",
                table: "checkouts");

            migrationBuilder.DropColumn(
                name: "voucher",
                table: "checkouts");

            migrationBuilder.DropColumn(
                name: "way",
                table: "checkouts");

            migrationBuilder.DropColumn(
                name: "good_until",
                table: "cards");

            migrationBuilder.AlterColumn<long>(
                name: "holding_id",
                table: "payments",
                type: "bigint",
                nullable: false,
                defaultValue: 0L,
                oldClrType: typeof(long),
                oldType: "bigint",
                oldNullable: true);

            migrationBuilder.AddCheckConstraint(
                name: "ck_payments_to_look_at_concern_known",
                table: "payments_to_look_at",
                sql: "\"concern\" in ('TakenDiffers', 'Dispute', 'DisputeAfterRefund', 'DisputeOfUnknown', 'ChargeRefused', 'FirstPaymentFailed')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters",
                sql: "\"kind\" in ('Welcome', 'SignIn', 'Receipt', 'Edition', 'PaymentFailed', 'Ending', 'Lapsed', 'Refund', 'Place', 'Answered', 'Marked', 'Confirm', 'HasAccount', 'Seat', 'Covered', 'Changed', 'Paused', 'Closed', 'PriceTold', 'Credited')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_ledger_account_known",
                table: "ledger",
                sql: "\"account\" in ('Member', 'Income', 'Refunds', 'Cash', 'Credit')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_holding_facts_reason_known",
                table: "holding_facts",
                sql: "\"reason\" in ('Left', 'Lapsed', 'RanOut', 'Replaced', 'EndedByTeam', 'Refunded', 'ChargedBack', 'SeatFreed', 'GroupOver', 'TakenBack')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise', 'BeginHolding', 'PeopleBatch', 'EndSeats', 'EndPause', 'Settle', 'MovePrice')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_checkouts_state_known",
                table: "checkouts",
                sql: "\"state\" in ('Open', 'Completed')");
        }
    }
}
