using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class Daily : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise', 'BeginHolding', 'PeopleBatch', 'EndSeats', 'EndPause', 'Settle', 'MovePrice', 'ChaseOrder', 'AskTransfer', 'SendVoucher', 'DisputeDecided', 'OwnerNews', 'OwnerMorning', 'CardExpiring', 'ForgetOrders')");

            migrationBuilder.CreateIndex(
                name: "ix_checkouts_email",
                table: "checkouts",
                column: "email");

            // What was begun before this is forgotten like what is begun from now on: each by a row of its own instead of one that comes daily.
            migrationBuilder.Sql("delete from due_work where kind = 'ForgetOrders'");
            migrationBuilder.Sql("""
                insert into due_work (id, kind, subject_id, turn, attempt, due_at, ready_at, key, tries)
                select id, 'ForgetOrders', id, 0, 0, created_at + interval '30 days', created_at + interval '30 days', 'forget-' || id, 0
                from checkouts where state = 'Open' and purpose = 'Join' on conflict do nothing
                """);
            migrationBuilder.Sql("update due_work set kind = 'OwnerMorning' where kind = 'OwnerNews' and subject_id = 0");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("update due_work set kind = 'OwnerNews', subject_id = 0 where kind = 'OwnerMorning'");

            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

            migrationBuilder.DropIndex(
                name: "ix_checkouts_email",
                table: "checkouts");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise', 'BeginHolding', 'PeopleBatch', 'EndSeats', 'EndPause', 'Settle', 'MovePrice', 'ChaseOrder', 'AskTransfer', 'SendVoucher', 'DisputeDecided', 'OwnerNews', 'CardExpiring', 'ForgetOrders')");
        }
    }
}
