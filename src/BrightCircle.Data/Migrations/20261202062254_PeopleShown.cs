using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class PeopleShown : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "choices",
                table: "talk_threads",
                type: "jsonb",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "is_badge",
                table: "tags",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<long>(
                name: "piece_id",
                table: "spaces",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "shows_people",
                table: "site",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<bool>(
                name: "on_cards",
                table: "own_fields",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<long>(
                name: "piece_id",
                table: "live_series",
                type: "bigint",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "person_cards",
                columns: table => new
                {
                    account_id = table.Column<long>(type: "bigint", nullable: false),
                    shown = table.Column<bool>(type: "boolean", nullable: false),
                    line = table.Column<string>(type: "character varying(160)", maxLength: 160, nullable: false),
                    place = table.Column<string>(type: "character varying(80)", maxLength: 80, nullable: false),
                    picture_id = table.Column<long>(type: "bigint", nullable: true),
                    unnamed_after = table.Column<bool>(type: "boolean", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_person_cards", x => x.account_id);
                    table.ForeignKey(
                        name: "fk_person_cards_accounts_account_id",
                        column: x => x.account_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_person_cards_talk_pictures_picture_id",
                        column: x => x.picture_id,
                        principalTable: "talk_pictures",
                        principalColumn: "id",
                        onDelete: ReferentialAction.SetNull);
                });

            migrationBuilder.CreateTable(
                name: "talk_votes",
                columns: table => new
                {
                    thread_id = table.Column<long>(type: "bigint", nullable: false),
                    account_id = table.Column<long>(type: "bigint", nullable: false),
                    choice = table.Column<int>(type: "integer", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_talk_votes", x => new { x.thread_id, x.account_id });
                    table.CheckConstraint("ck_talk_votes_choice", "choice between 0 and 7");
                    table.ForeignKey(
                        name: "fk_talk_votes_accounts_account_id",
                        column: x => x.account_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_talk_votes_talk_threads_thread_id",
                        column: x => x.thread_id,
                        principalTable: "talk_threads",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "ix_talk_posts_at",
                table: "talk_posts",
                column: "at");

            migrationBuilder.CreateIndex(
                name: "ix_talk_posts_first",
                table: "talk_posts",
                column: "thread_id",
                filter: "is_first");

            migrationBuilder.CreateIndex(
                name: "ix_spaces_piece_id",
                table: "spaces",
                column: "piece_id");

            migrationBuilder.CreateIndex(
                name: "ix_live_series_piece_id",
                table: "live_series",
                column: "piece_id");

            migrationBuilder.CreateIndex(
                name: "ix_person_cards_picture_id",
                table: "person_cards",
                column: "picture_id");

            migrationBuilder.CreateIndex(
                name: "ix_talk_votes_account_id",
                table: "talk_votes",
                column: "account_id");

            migrationBuilder.AddForeignKey(
                name: "fk_live_series_pieces_piece_id",
                table: "live_series",
                column: "piece_id",
                principalTable: "pieces",
                principalColumn: "id",
                onDelete: ReferentialAction.SetNull);

            migrationBuilder.AddForeignKey(
                name: "fk_spaces_pieces_piece_id",
                table: "spaces",
                column: "piece_id",
                principalTable: "pieces",
                principalColumn: "id",
                onDelete: ReferentialAction.SetNull);

            migrationBuilder.Sql("""
                -- A page of a large space is read in its order.
                create index ix_talk_threads_order on talk_threads (space_id, (pinned_at is null), last_at desc, id desc) where merged_id is null;
                -- Under which name somebody's words stand: their own, or none once their membership is over, if they wanted it so.
                create function tell_names(who bigint) returns void language sql as $$
                  update talk_posts p set name = v.name from (
                    select a.id, case when c.unnamed_after and m.standing = 'Lapsed' then 'A former member' else a.name end as name
                    from accounts a join members m on m.id = a.id join person_cards c on c.account_id = a.id where a.id = who) v
                  where p.account_id = v.id and p.name is distinct from v.name
                $$;
                create function names_after_standing() returns trigger language plpgsql as $$ begin
                  if exists (select 1 from person_cards c where c.account_id = new.id and c.unnamed_after) then perform tell_names(new.id); end if;
                  return null;
                end $$;
                create trigger names_after_standing after update of standing on members for each row
                  when (old.standing is distinct from new.standing and 'Lapsed' in (old.standing, new.standing))
                  execute function names_after_standing();
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("""
                drop trigger names_after_standing on members;
                drop function names_after_standing();
                drop function tell_names(bigint);
                drop index ix_talk_threads_order;
                """);

            migrationBuilder.DropForeignKey(
                name: "fk_live_series_pieces_piece_id",
                table: "live_series");

            migrationBuilder.DropForeignKey(
                name: "fk_spaces_pieces_piece_id",
                table: "spaces");

            migrationBuilder.DropTable(
                name: "person_cards");

            migrationBuilder.DropTable(
                name: "talk_votes");

            migrationBuilder.DropIndex(
                name: "ix_talk_posts_at",
                table: "talk_posts");

            migrationBuilder.DropIndex(
                name: "ix_talk_posts_first",
                table: "talk_posts");

            migrationBuilder.DropIndex(
                name: "ix_spaces_piece_id",
                table: "spaces");

            migrationBuilder.DropIndex(
                name: "ix_live_series_piece_id",
                table: "live_series");

            migrationBuilder.DropColumn(
                name: "choices",
                table: "talk_threads");

            migrationBuilder.DropColumn(
                name: "is_badge",
                table: "tags");

            migrationBuilder.DropColumn(
                name: "piece_id",
                table: "spaces");

            migrationBuilder.DropColumn(
                name: "shows_people",
                table: "site");

            migrationBuilder.DropColumn(
                name: "on_cards",
                table: "own_fields");

            migrationBuilder.DropColumn(
                name: "piece_id",
                table: "live_series");
        }
    }
}
