using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class TalkCare : Migration
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

            migrationBuilder.AddColumn<string>(
                name: "taken_body",
                table: "talk_posts",
                type: "character varying(20000)",
                maxLength: 20000,
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "wants_talk",
                table: "members",
                type: "boolean",
                nullable: false,
                defaultValue: true);

            migrationBuilder.CreateTable(
                name: "challenges",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "character varying(80)", maxLength: 80, nullable: false),
                    about = table.Column<string>(type: "character varying(1000)", maxLength: 1000, nullable: false),
                    tally_id = table.Column<long>(type: "bigint", nullable: false),
                    plan_id = table.Column<long>(type: "bigint", nullable: false),
                    space_id = table.Column<long>(type: "bigint", nullable: true),
                    starts_on = table.Column<LocalDate>(type: "date", nullable: false),
                    weeks = table.Column<int>(type: "integer", nullable: false),
                    made_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_challenges", x => x.id);
                    table.ForeignKey(
                        name: "fk_challenges_plans_plan_id",
                        column: x => x.plan_id,
                        principalTable: "plans",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_challenges_spaces_space_id",
                        column: x => x.space_id,
                        principalTable: "spaces",
                        principalColumn: "id",
                        onDelete: ReferentialAction.SetNull);
                    table.ForeignKey(
                        name: "fk_challenges_tallies_tally_id",
                        column: x => x.tally_id,
                        principalTable: "tallies",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "dialogues",
                columns: table => new
                {
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    opened_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    last_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    last_by_team = table.Column<bool>(type: "boolean", nullable: false),
                    state = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    assigned_id = table.Column<long>(type: "bigint", nullable: true),
                    seen_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_dialogues", x => x.member_id);
                    table.CheckConstraint("ck_dialogues_state_known", "\"state\" in ('Open', 'Waiting', 'Done')");
                    table.ForeignKey(
                        name: "fk_dialogues_accounts_assigned_id",
                        column: x => x.assigned_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.SetNull);
                    table.ForeignKey(
                        name: "fk_dialogues_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "messages",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    account_id = table.Column<long>(type: "bigint", nullable: true),
                    name = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false),
                    by_team = table.Column<bool>(type: "boolean", nullable: false),
                    body = table.Column<string>(type: "character varying(20000)", maxLength: 20000, nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_messages", x => x.id);
                    table.ForeignKey(
                        name: "fk_messages_accounts_account_id",
                        column: x => x.account_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.SetNull);
                    table.ForeignKey(
                        name: "fk_messages_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "saved_answers",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "character varying(80)", maxLength: 80, nullable: false),
                    body = table.Column<string>(type: "character varying(4000)", maxLength: 4000, nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_saved_answers", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "space_tellings",
                columns: table => new
                {
                    account_id = table.Column<long>(type: "bigint", nullable: false),
                    space_id = table.Column<long>(type: "bigint", nullable: false),
                    telling = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_space_tellings", x => new { x.account_id, x.space_id });
                    table.CheckConstraint("ck_space_tellings_telling_known", "\"telling\" in ('Followed', 'AtOnce', 'Daily', 'Weekly', 'Never')");
                    table.ForeignKey(
                        name: "fk_space_tellings_accounts_account_id",
                        column: x => x.account_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_space_tellings_spaces_space_id",
                        column: x => x.space_id,
                        principalTable: "spaces",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "talk_bars",
                columns: table => new
                {
                    account_id = table.Column<long>(type: "bigint", nullable: false),
                    until = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    why = table.Column<string>(type: "character varying(500)", maxLength: 500, nullable: false),
                    by = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_talk_bars", x => x.account_id);
                    table.ForeignKey(
                        name: "fk_talk_bars_accounts_account_id",
                        column: x => x.account_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "talk_follows",
                columns: table => new
                {
                    account_id = table.Column<long>(type: "bigint", nullable: false),
                    thread_id = table.Column<long>(type: "bigint", nullable: false),
                    follows = table.Column<bool>(type: "boolean", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_talk_follows", x => new { x.account_id, x.thread_id });
                    table.ForeignKey(
                        name: "fk_talk_follows_accounts_account_id",
                        column: x => x.account_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_talk_follows_talk_threads_thread_id",
                        column: x => x.thread_id,
                        principalTable: "talk_threads",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "talk_reports",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    post_id = table.Column<long>(type: "bigint", nullable: false),
                    account_id = table.Column<long>(type: "bigint", nullable: true),
                    name = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false),
                    why = table.Column<string>(type: "character varying(500)", maxLength: 500, nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    settled_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    settled_by = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: true),
                    outcome = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_talk_reports", x => x.id);
                    table.CheckConstraint("ck_talk_reports_outcome_known", "\"outcome\" in ('LeftStanding', 'TakenAway')");
                    table.ForeignKey(
                        name: "fk_talk_reports_accounts_account_id",
                        column: x => x.account_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.SetNull);
                    table.ForeignKey(
                        name: "fk_talk_reports_talk_posts_post_id",
                        column: x => x.post_id,
                        principalTable: "talk_posts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.AddCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters",
                sql: "\"kind\" in ('Welcome', 'SignIn', 'Receipt', 'Edition', 'PaymentFailed', 'Ending', 'Lapsed', 'Refund', 'Place', 'Answered', 'Marked', 'Confirm', 'HasAccount', 'Seat', 'Covered', 'Changed', 'Paused', 'Closed', 'PriceTold', 'Credited', 'OrderPlaced', 'PaymentWanted', 'OrderReminder', 'OrderOver', 'Voucher', 'VoucherFor', 'CardRunsOut', 'OwnerNews', 'Many', 'TeamInvite', 'HalfWay', 'Session', 'Talk', 'TalkWord', 'Message')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_letter_texts_kind_known",
                table: "letter_texts",
                sql: "\"kind\" in ('Welcome', 'SignIn', 'Receipt', 'Edition', 'PaymentFailed', 'Ending', 'Lapsed', 'Refund', 'Place', 'Answered', 'Marked', 'Confirm', 'HasAccount', 'Seat', 'Covered', 'Changed', 'Paused', 'Closed', 'PriceTold', 'Credited', 'OrderPlaced', 'PaymentWanted', 'OrderReminder', 'OrderOver', 'Voucher', 'VoucherFor', 'CardRunsOut', 'OwnerNews', 'Many', 'TeamInvite', 'HalfWay', 'Session', 'Talk', 'TalkWord', 'Message')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise', 'BeginHolding', 'PeopleBatch', 'EndSeats', 'EndPause', 'Settle', 'MovePrice', 'ChaseOrder', 'AskTransfer', 'SendVoucher', 'DisputeDecided', 'OwnerNews', 'OwnerMorning', 'CardExpiring', 'ForgetOrders', 'Mailing', 'RoutineHears', 'RoutineStep', 'RoutineDay', 'RoutineBegin', 'RoutineEdition', 'ForgetCard', 'RemindHalfWay', 'CountMonth', 'SessionNear', 'TalkHour', 'TalkAtOnce', 'ForgetWords')");

            migrationBuilder.CreateIndex(
                name: "ix_challenges_name",
                table: "challenges",
                column: "name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_challenges_plan_id",
                table: "challenges",
                column: "plan_id");

            migrationBuilder.CreateIndex(
                name: "ix_challenges_space_id",
                table: "challenges",
                column: "space_id");

            migrationBuilder.CreateIndex(
                name: "ix_challenges_tally_id",
                table: "challenges",
                column: "tally_id");

            migrationBuilder.CreateIndex(
                name: "ix_dialogues_assigned_id",
                table: "dialogues",
                column: "assigned_id");

            migrationBuilder.CreateIndex(
                name: "ix_dialogues_state_last_at",
                table: "dialogues",
                columns: new[] { "state", "last_at" });

            migrationBuilder.CreateIndex(
                name: "ix_messages_account_id",
                table: "messages",
                column: "account_id");

            migrationBuilder.CreateIndex(
                name: "ix_messages_member_id_id",
                table: "messages",
                columns: new[] { "member_id", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_saved_answers_name",
                table: "saved_answers",
                column: "name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_space_tellings_space_id",
                table: "space_tellings",
                column: "space_id");

            migrationBuilder.CreateIndex(
                name: "ix_talk_follows_thread_id",
                table: "talk_follows",
                column: "thread_id");

            migrationBuilder.CreateIndex(
                name: "ix_talk_reports_account_id",
                table: "talk_reports",
                column: "account_id");

            migrationBuilder.CreateIndex(
                name: "ix_talk_reports_at",
                table: "talk_reports",
                column: "at",
                filter: "settled_at is null");

            migrationBuilder.CreateIndex(
                name: "ix_talk_reports_post_id_account_id",
                table: "talk_reports",
                columns: new[] { "post_id", "account_id" },
                unique: true);

            // Words in what was said are looked for in any language; threads are paged in the order they are read in.
            migrationBuilder.Sql("""
                alter table talk_posts add column words tsvector generated always as (to_tsvector('simple', regexp_replace(body, '<[^>]+>', ' ', 'g'))) stored;
                create index ix_talk_posts_words on talk_posts using gin (words);
                create index ix_talk_posts_reading on talk_posts (thread_id, coalesce(answers_id, id), id);
                create trigger tell_catalogue after insert or update or delete on challenges for each statement execute function tell_catalogue();
                """);
            // Who wrote in a thread before one could follow it follows it.
            migrationBuilder.Sql("""
                insert into talk_follows (account_id, thread_id, follows)
                select distinct p.account_id, p.thread_id, true from talk_posts p where p.account_id is not null on conflict do nothing;
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("""
                drop index ix_talk_posts_words;
                drop index ix_talk_posts_reading;
                alter table talk_posts drop column words;
                """);

            migrationBuilder.DropTable(
                name: "challenges");

            migrationBuilder.DropTable(
                name: "dialogues");

            migrationBuilder.DropTable(
                name: "messages");

            migrationBuilder.DropTable(
                name: "saved_answers");

            migrationBuilder.DropTable(
                name: "space_tellings");

            migrationBuilder.DropTable(
                name: "talk_bars");

            migrationBuilder.DropTable(
                name: "talk_follows");

            migrationBuilder.DropTable(
                name: "talk_reports");

            migrationBuilder.DropCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters");

            migrationBuilder.DropCheckConstraint(
                name: "ck_letter_texts_kind_known",
                table: "letter_texts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

            migrationBuilder.DropColumn(
                name: "taken_body",
                table: "talk_posts");

            migrationBuilder.DropColumn(
                name: "wants_talk",
                table: "members");

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
        }
    }
}
