using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;
using Npgsql.EntityFrameworkCore.PostgreSQL.Metadata;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class Ground : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("""
                alter table holding_facts disable trigger append_only;
                alter table journal disable trigger append_only;
                """);

            migrationBuilder.AddColumn<string>(
                name: "business_address",
                table: "site",
                type: "character varying(400)",
                maxLength: 400,
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "business_name",
                table: "site",
                type: "character varying(120)",
                maxLength: 120,
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "culture",
                table: "site",
                type: "character varying(20)",
                maxLength: 20,
                nullable: false,
                defaultValue: "en-GB");

            migrationBuilder.AddColumn<bool>(
                name: "is_trial",
                table: "site",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<string>(
                name: "video_hosts",
                table: "site",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'[]'");

            migrationBuilder.AddColumn<string>(
                name: "availability",
                table: "prices",
                type: "character varying(40)",
                maxLength: 40,
                nullable: false,
                defaultValue: "OnOffer");

            migrationBuilder.AddColumn<int>(
                name: "order",
                table: "prices",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<string>(
                name: "availability",
                table: "plans",
                type: "character varying(40)",
                maxLength: 40,
                nullable: false,
                defaultValue: "OnOffer");

            migrationBuilder.AddColumn<string>(
                name: "kind",
                table: "plans",
                type: "character varying(40)",
                maxLength: 40,
                nullable: false,
                defaultValue: "Tier");

            migrationBuilder.AddColumn<bool>(
                name: "dated",
                table: "pieces",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<Instant>(
                name: "opens_at",
                table: "pieces",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "pattern_id",
                table: "pieces",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "receipt_number",
                table: "payments",
                type: "integer",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "receipt_year",
                table: "payments",
                type: "integer",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "taken_currency",
                table: "payments",
                type: "character varying(3)",
                maxLength: 3,
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "taken_minor",
                table: "payments",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<Instant>(
                name: "set_aside_at",
                table: "letters",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "set_aside_by",
                table: "letters",
                type: "character varying(120)",
                maxLength: 120,
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "event",
                table: "journal",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'{}'");

            migrationBuilder.AddColumn<long>(
                name: "seq",
                table: "journal",
                type: "bigint",
                nullable: false,
                defaultValue: 0L)
                .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityAlwaysColumn);

            migrationBuilder.AddColumn<string>(
                name: "agreement",
                table: "holdings",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'{}'");

            migrationBuilder.AddColumn<int>(
                name: "seq",
                table: "holding_facts",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<string>(
                name: "asked_currency",
                table: "checkouts",
                type: "character varying(3)",
                maxLength: 3,
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "asked_minor",
                table: "checkouts",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "browser_hash",
                table: "checkouts",
                type: "character varying(64)",
                maxLength: 64,
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "charge_purpose",
                table: "checkouts",
                type: "character varying(40)",
                maxLength: 40,
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "refused_because",
                table: "checkouts",
                type: "character varying(400)",
                maxLength: 400,
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "feeds_version",
                table: "accounts",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.CreateTable(
                name: "charge_asks",
                columns: table => new
                {
                    key = table.Column<string>(type: "character varying(80)", maxLength: 80, nullable: false),
                    holding_id = table.Column<long>(type: "bigint", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    purpose = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    turn = table.Column<int>(type: "integer", nullable: false),
                    attempt = table.Column<int>(type: "integer", nullable: false),
                    due_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    paid_through = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    card_token = table.Column<string>(type: "character varying(80)", maxLength: 80, nullable: false),
                    card_label = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    text = table.Column<string>(type: "character varying(300)", maxLength: 300, nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    currency = table.Column<string>(type: "character(3)", fixedLength: true, maxLength: 3, nullable: false),
                    amount_minor = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_charge_asks", x => x.key);
                    table.CheckConstraint("ck_charge_asks_purpose_known", "\"purpose\" in ('Trial', 'Once', 'Recurring')");
                    table.ForeignKey(
                        name: "fk_charge_asks_holdings_holding_id",
                        column: x => x.holding_id,
                        principalTable: "holdings",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_charge_asks_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "payments_to_look_at",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    concern = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: true),
                    payment_id = table.Column<long>(type: "bigint", nullable: true),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    text = table.Column<string>(type: "character varying(600)", maxLength: 600, nullable: false),
                    key = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false),
                    settled_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    settled_by = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_payments_to_look_at", x => x.id);
                    table.CheckConstraint("ck_payments_to_look_at_concern_known", "\"concern\" in ('TakenDiffers', 'Dispute', 'DisputeAfterRefund', 'DisputeOfUnknown', 'ChargeRefused', 'FirstPaymentFailed')");
                    table.ForeignKey(
                        name: "fk_payments_to_look_at_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_payments_to_look_at_payments_payment_id",
                        column: x => x.payment_id,
                        principalTable: "payments",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "receipt_counters",
                columns: table => new
                {
                    year = table.Column<int>(type: "integer", nullable: false),
                    last = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_receipt_counters", x => x.year);
                });

            migrationBuilder.Sql("""
                update prices set availability = case when archived_at is null then 'OnOffer' else 'Closed' end,
                  "order" = (select count(*) from prices o where o.plan_id = prices.plan_id and o.id <= prices.id);

                -- The terms as agreed: of the price they were bought at; a trial was theirs where their periods don't begin with the holding.
                update holdings h set agreement = jsonb_build_object(
                  'terms', coalesce((select p.terms from prices p where p.id = h.price_id), '{"$type": "free"}'::jsonb),
                  'trialRight', h.anchor <> h.starts_at,
                  'start', to_char(h.starts_at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"'),
                  'zoneId', (select zone_id from site));

                update holding_facts f set seq = n.seq
                from (select id, row_number() over (partition by holding_id order by id) as seq from holding_facts) n where n.id = f.id;

                -- Lines from before events were typed keep their words.
                update journal set event = jsonb_build_object('$type', 'noted', 'text', text), kind = 'noted';

                update pieces p set opens_at = d.due_at from due_work d
                where d.kind = 'ReleasePiece' and d.subject_id = p.id and p.released_at is null and p.edition_id is null;

                -- Receipts are numbered without gaps, year by year in the site's zone.
                update payments p set receipt_year = n.year, receipt_number = n.number
                from (select id, year, row_number() over (partition by year order by at, id) as number
                      from (select id, at, extract(year from at at time zone (select zone_id from site))::int as year from payments where outcome = 'Approved') y) n
                where n.id = p.id;
                insert into receipt_counters (year, last) select receipt_year, max(receipt_number) from payments where receipt_year is not null group by 1;

                -- What names something that is gone names nothing.
                update letters l set edition_id = null where edition_id is not null and not exists (select 1 from editions e where e.id = l.edition_id);
                update letters l set sign_in_link_id = null where sign_in_link_id is not null and not exists (select 1 from sign_in_links s where s.id = l.sign_in_link_id);
                delete from editing e where not exists (select 1 from accounts a where a.id = e.account_id);
                delete from uploads u where not exists (select 1 from accounts a where a.id = u.account_id);
                delete from sheet_tries t where not exists (select 1 from lessons l where l.id = t.lesson_id);
                delete from form_entries t where not exists (select 1 from lessons l where l.id = t.lesson_id);
                delete from played t where not exists (select 1 from lessons l where l.id = t.lesson_id);
                update import_runs i set dry_id = null where dry_id is not null and not exists (select 1 from import_runs d where d.id = i.dry_id);
                """);

            migrationBuilder.DropIndex(
                name: "ix_letters_refused",
                table: "letters");

            migrationBuilder.DropIndex(
                name: "ix_journal_at",
                table: "journal");

            migrationBuilder.DropIndex(
                name: "ix_journal_member_id_at",
                table: "journal");

            migrationBuilder.DropPrimaryKey(
                name: "pk_holding_facts",
                table: "holding_facts");

            migrationBuilder.DropIndex(
                name: "ix_holding_facts_holding_id",
                table: "holding_facts");

            migrationBuilder.DropColumn(
                name: "archived_at",
                table: "prices");

            migrationBuilder.DropColumn(
                name: "payment_id",
                table: "journal");

            migrationBuilder.DropColumn(
                name: "piece_id",
                table: "journal");

            migrationBuilder.DropColumn(
                name: "text",
                table: "journal");

            migrationBuilder.DropColumn(
                name: "anchor",
                table: "holdings");

            migrationBuilder.DropColumn(
                name: "id",
                table: "holding_facts");

            migrationBuilder.AddPrimaryKey(
                name: "pk_holding_facts",
                table: "holding_facts",
                columns: new[] { "holding_id", "seq" });

            migrationBuilder.CreateIndex(
                name: "ix_uploads_account_id",
                table: "uploads",
                column: "account_id");

            migrationBuilder.AddCheckConstraint(
                name: "ck_standing_counts_standing_known",
                table: "standing_counts",
                sql: "\"standing\" in ('Guest', 'Trial', 'Active', 'Grace', 'Ending', 'Lapsed')");

            migrationBuilder.CreateIndex(
                name: "ix_standing_changes_plan_id",
                table: "standing_changes",
                column: "plan_id");

            migrationBuilder.AddCheckConstraint(
                name: "ck_standing_changes_from_known",
                table: "standing_changes",
                sql: "\"from\" in ('Guest', 'Trial', 'Active', 'Grace', 'Ending', 'Lapsed')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_standing_changes_to_known",
                table: "standing_changes",
                sql: "\"to\" in ('Guest', 'Trial', 'Active', 'Grace', 'Ending', 'Lapsed')");

            migrationBuilder.CreateIndex(
                name: "ix_sheet_tries_lesson_id",
                table: "sheet_tries",
                column: "lesson_id");

            migrationBuilder.AddCheckConstraint(
                name: "ck_prices_availability_known",
                table: "prices",
                sql: "\"availability\" in ('OnOffer', 'ByLink', 'Closed')");

            migrationBuilder.CreateIndex(
                name: "ix_played_lesson_id",
                table: "played",
                column: "lesson_id");

            migrationBuilder.AddCheckConstraint(
                name: "ck_plans_availability_known",
                table: "plans",
                sql: "\"availability\" in ('OnOffer', 'ByLink', 'Closed')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_plans_kind_known",
                table: "plans",
                sql: "\"kind\" in ('Tier', 'Pass')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_plans_rank",
                table: "plans",
                sql: "(kind = 'Pass') = (rank = 0)");

            migrationBuilder.CreateIndex(
                name: "ix_pieces_pattern_id",
                table: "pieces",
                column: "pattern_id");

            migrationBuilder.AddCheckConstraint(
                name: "ck_pieces_difficulty_known",
                table: "pieces",
                sql: "\"difficulty\" in ('Anyone', 'Beginner', 'Practised', 'Expert')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_pieces_resources_known",
                table: "pieces",
                sql: "\"resources\" in ('WhereWritten', 'AtTheEnd')");

            migrationBuilder.CreateIndex(
                name: "ix_payments_receipt_year_receipt_number",
                table: "payments",
                columns: new[] { "receipt_year", "receipt_number" },
                unique: true);

            migrationBuilder.AddCheckConstraint(
                name: "ck_payments_outcome_known",
                table: "payments",
                sql: "\"outcome\" in ('Approved', 'DeclinedSoft', 'DeclinedHard', 'NeedsCardholder')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_payments_purpose_known",
                table: "payments",
                sql: "\"purpose\" in ('Trial', 'Once', 'Recurring')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_members_standing_known",
                table: "members",
                sql: "\"standing\" in ('Guest', 'Trial', 'Active', 'Grace', 'Ending', 'Lapsed')");

            migrationBuilder.CreateIndex(
                name: "ix_letters_edition_id",
                table: "letters",
                column: "edition_id");

            migrationBuilder.CreateIndex(
                name: "ix_letters_refused",
                table: "letters",
                column: "id",
                filter: "state = 'Refused' and set_aside_at is null");

            migrationBuilder.CreateIndex(
                name: "ix_letters_sign_in_link_id",
                table: "letters",
                column: "sign_in_link_id");

            migrationBuilder.AddCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters",
                sql: "\"kind\" in ('Welcome', 'SignIn', 'Receipt', 'Edition', 'PaymentFailed', 'Ending', 'Lapsed', 'Refund', 'Place', 'Answered', 'Marked', 'Confirm', 'HasAccount')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_letters_state_known",
                table: "letters",
                sql: "\"state\" in ('Queued', 'Sent', 'Refused')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_lessons_done_when_known",
                table: "lessons",
                sql: "\"done_when\" in ('Marked', 'Opened', 'SheetPassed', 'Watched')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_lesson_patterns_done_when_known",
                table: "lesson_patterns",
                sql: "\"done_when\" in ('Marked', 'Opened', 'SheetPassed', 'Watched')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_ledger_account_known",
                table: "ledger",
                sql: "\"account\" in ('Member', 'Income', 'Refunds', 'Cash')");

            migrationBuilder.CreateIndex(
                name: "ix_journal_kind_seq",
                table: "journal",
                columns: new[] { "kind", "seq" });

            migrationBuilder.CreateIndex(
                name: "ix_journal_member_id_seq",
                table: "journal",
                columns: new[] { "member_id", "seq" });

            migrationBuilder.CreateIndex(
                name: "ix_journal_seq",
                table: "journal",
                column: "seq");

            migrationBuilder.AddCheckConstraint(
                name: "ck_holdings_source_known",
                table: "holdings",
                sql: "\"source\" in ('Bought', 'Gift')");

            migrationBuilder.CreateIndex(
                name: "ix_holding_facts_payment_id",
                table: "holding_facts",
                column: "payment_id");

            migrationBuilder.AddCheckConstraint(
                name: "ck_holding_facts_kind_known",
                table: "holding_facts",
                sql: "\"kind\" in ('Paid', 'Trial', 'Given', 'Grace', 'Leaving', 'Staying', 'Missed', 'Waived', 'Ended')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_holding_facts_reason_known",
                table: "holding_facts",
                sql: "\"reason\" in ('Left', 'Lapsed', 'RanOut', 'Replaced', 'EndedByTeam', 'Refunded', 'ChargedBack')");

            migrationBuilder.CreateIndex(
                name: "ix_form_entries_lesson_id",
                table: "form_entries",
                column: "lesson_id");

            migrationBuilder.AddCheckConstraint(
                name: "ck_files_kind_known",
                table: "files",
                sql: "\"kind\" in ('Picture', 'Video', 'Audio', 'Document')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_file_uses_user_known",
                table: "file_uses",
                sql: "\"user\" in ('Lesson', 'Piece', 'Shelf')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_editions_span_known",
                table: "editions",
                sql: "\"span\" in ('Month', 'Week', 'Day')");

            migrationBuilder.CreateIndex(
                name: "ix_editing_account_id",
                table: "editing",
                column: "account_id");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_clock_moves_state_known",
                table: "clock_moves",
                sql: "\"state\" in ('Running', 'Done', 'Failed')");

            migrationBuilder.CreateIndex(
                name: "ix_checkouts_holding_id",
                table: "checkouts",
                column: "holding_id");

            migrationBuilder.CreateIndex(
                name: "ix_checkouts_member_id",
                table: "checkouts",
                column: "member_id");

            migrationBuilder.CreateIndex(
                name: "ix_checkouts_price_id",
                table: "checkouts",
                column: "price_id");

            migrationBuilder.AddCheckConstraint(
                name: "ck_checkouts_charge_purpose_known",
                table: "checkouts",
                sql: "\"charge_purpose\" in ('Trial', 'Once', 'Recurring')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_checkouts_purpose_known",
                table: "checkouts",
                sql: "\"purpose\" in ('Join', 'ChangeCard', 'ConfirmPayment')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_checkouts_state_known",
                table: "checkouts",
                sql: "\"state\" in ('Open', 'Completed')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_accounts_role_known",
                table: "accounts",
                sql: "\"role\" in ('Owner', 'Editor', 'Host', 'Support')");

            migrationBuilder.CreateIndex(
                name: "ix_charge_asks_holding_id",
                table: "charge_asks",
                column: "holding_id");

            migrationBuilder.CreateIndex(
                name: "ix_charge_asks_member_id",
                table: "charge_asks",
                column: "member_id");

            migrationBuilder.CreateIndex(
                name: "ix_payments_to_look_at_key",
                table: "payments_to_look_at",
                column: "key",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_payments_to_look_at_member_id",
                table: "payments_to_look_at",
                column: "member_id");

            migrationBuilder.CreateIndex(
                name: "ix_payments_to_look_at_open",
                table: "payments_to_look_at",
                column: "id",
                filter: "settled_at is null");

            migrationBuilder.CreateIndex(
                name: "ix_payments_to_look_at_payment_id",
                table: "payments_to_look_at",
                column: "payment_id");

            migrationBuilder.AddForeignKey(
                name: "fk_checkouts_holdings_holding_id",
                table: "checkouts",
                column: "holding_id",
                principalTable: "holdings",
                principalColumn: "id",
                onDelete: ReferentialAction.Restrict);

            migrationBuilder.AddForeignKey(
                name: "fk_checkouts_members_member_id",
                table: "checkouts",
                column: "member_id",
                principalTable: "members",
                principalColumn: "id",
                onDelete: ReferentialAction.Restrict);

            migrationBuilder.AddForeignKey(
                name: "fk_checkouts_prices_price_id",
                table: "checkouts",
                column: "price_id",
                principalTable: "prices",
                principalColumn: "id",
                onDelete: ReferentialAction.Restrict);

            migrationBuilder.AddForeignKey(
                name: "fk_editing_accounts_account_id",
                table: "editing",
                column: "account_id",
                principalTable: "accounts",
                principalColumn: "id",
                onDelete: ReferentialAction.Cascade);

            migrationBuilder.AddForeignKey(
                name: "fk_form_entries_lessons_lesson_id",
                table: "form_entries",
                column: "lesson_id",
                principalTable: "lessons",
                principalColumn: "id",
                onDelete: ReferentialAction.Cascade);

            migrationBuilder.AddForeignKey(
                name: "fk_holding_facts_payments_payment_id",
                table: "holding_facts",
                column: "payment_id",
                principalTable: "payments",
                principalColumn: "id",
                onDelete: ReferentialAction.Restrict);

            migrationBuilder.AddForeignKey(
                name: "fk_import_runs_import_runs_dry_id",
                table: "import_runs",
                column: "dry_id",
                principalTable: "import_runs",
                principalColumn: "id",
                onDelete: ReferentialAction.SetNull);

            migrationBuilder.AddForeignKey(
                name: "fk_letters_editions_edition_id",
                table: "letters",
                column: "edition_id",
                principalTable: "editions",
                principalColumn: "id",
                onDelete: ReferentialAction.SetNull);

            migrationBuilder.AddForeignKey(
                name: "fk_letters_members_member_id",
                table: "letters",
                column: "member_id",
                principalTable: "members",
                principalColumn: "id",
                onDelete: ReferentialAction.Restrict);

            migrationBuilder.AddForeignKey(
                name: "fk_letters_sign_in_links_sign_in_link_id",
                table: "letters",
                column: "sign_in_link_id",
                principalTable: "sign_in_links",
                principalColumn: "id",
                onDelete: ReferentialAction.SetNull);

            migrationBuilder.AddForeignKey(
                name: "fk_pieces_lesson_patterns_pattern_id",
                table: "pieces",
                column: "pattern_id",
                principalTable: "lesson_patterns",
                principalColumn: "id",
                onDelete: ReferentialAction.SetNull);

            migrationBuilder.AddForeignKey(
                name: "fk_played_lessons_lesson_id",
                table: "played",
                column: "lesson_id",
                principalTable: "lessons",
                principalColumn: "id",
                onDelete: ReferentialAction.Cascade);

            migrationBuilder.AddForeignKey(
                name: "fk_sheet_tries_lessons_lesson_id",
                table: "sheet_tries",
                column: "lesson_id",
                principalTable: "lessons",
                principalColumn: "id",
                onDelete: ReferentialAction.Cascade);

            migrationBuilder.AddForeignKey(
                name: "fk_standing_changes_plans_plan_id",
                table: "standing_changes",
                column: "plan_id",
                principalTable: "plans",
                principalColumn: "id",
                onDelete: ReferentialAction.Restrict);

            migrationBuilder.AddForeignKey(
                name: "fk_uploads_accounts_account_id",
                table: "uploads",
                column: "account_id",
                principalTable: "accounts",
                principalColumn: "id",
                onDelete: ReferentialAction.Cascade);

            migrationBuilder.Sql("""
                alter table holding_facts enable trigger append_only;
                alter table journal enable trigger append_only;
                alter table holdings alter column agreement drop default;
                alter table journal alter column event drop default;
                create index ix_holding_facts_missed on holding_facts (holding_id, seq) where kind in ('Missed', 'Waived');

                -- Nothing of the books is changed or emptied. Only what was a rehearsal goes, when the site goes live, in a transaction that says so.
                create or replace function refuse_change() returns trigger language plpgsql as $$
                begin
                  if tg_op = 'DELETE' and current_setting('bright.going_live', true) = 'yes' then return old; end if;
                  raise exception '% is append-only: corrections are new rows', tg_table_name using errcode = 'restrict_violation';
                end $$;
                create trigger never_emptied before truncate on holding_facts for each statement execute function refuse_change();
                create trigger never_emptied before truncate on journal for each statement execute function refuse_change();
                create trigger never_emptied before truncate on ledger for each statement execute function refuse_change();
                create trigger never_emptied before truncate on refunds for each statement execute function refuse_change();
                create trigger never_emptied before truncate on standing_changes for each statement execute function refuse_change();
                create trigger never_emptied before truncate on payments for each statement execute function refuse_change();
                create trigger append_only before delete on payments for each row execute function refuse_change();
                -- Of a payment only what went back is counted up.
                create function refuse_payment_change() returns trigger language plpgsql as $$
                begin
                  if to_jsonb(new) - 'refunded_minor' - 'charged_back' is distinct from to_jsonb(old) - 'refunded_minor' - 'charged_back'
                    or new.refunded_minor < old.refunded_minor or (old.charged_back and not new.charged_back) then
                    raise exception 'payments are append-only: only what went back is counted up' using errcode = 'restrict_violation';
                  end if;
                  return new;
                end $$;
                create trigger only_refunds_change before update on payments for each row execute function refuse_payment_change();

                -- Every node hears of a change to the catalogue, in the transaction that makes it: a piece by its number, anything else by nothing.
                create function tell_catalogue() returns trigger language plpgsql as $$
                begin
                  perform pg_notify('catalogue', '');
                  return null;
                end $$;
                create function tell_piece() returns trigger language plpgsql as $$
                begin
                  if tg_table_name = 'pieces' then
                    perform pg_notify('catalogue', coalesce(new.id, old.id)::text);
                  else
                    if old.piece_id is not null then perform pg_notify('catalogue', old.piece_id::text); end if;
                    if new.piece_id is not null and new.piece_id is distinct from old.piece_id then perform pg_notify('catalogue', new.piece_id::text); end if;
                  end if;
                  return null;
                end $$;
                create trigger tell_catalogue after insert or update or delete on site for each statement execute function tell_catalogue();
                create trigger tell_catalogue after insert or update or delete on plans for each statement execute function tell_catalogue();
                create trigger tell_catalogue after insert or update or delete on prices for each statement execute function tell_catalogue();
                create trigger tell_catalogue after insert or update or delete on shelves for each statement execute function tell_catalogue();
                create trigger tell_catalogue after insert or update or delete on editions for each statement execute function tell_catalogue();
                create trigger tell_catalogue after insert or update or delete on tallies for each statement execute function tell_catalogue();
                create trigger tell_piece after insert or update or delete on pieces for each row execute function tell_piece();
                create trigger tell_piece after insert or update or delete on modules for each row execute function tell_piece();
                create trigger tell_piece after insert or update or delete on lessons for each row execute function tell_piece();
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder) =>
            throw new System.NotSupportedException("Facts that have an order can't lose it: restore a backup instead.");
    }
}
