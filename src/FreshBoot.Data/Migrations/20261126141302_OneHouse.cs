using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace FreshBoot.Data.Migrations
{
    /// <inheritdoc />
    public partial class OneHouse : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "Name",
                table: "orders",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "Codes",
                table: "machines",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "Placing",
                table: "images",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "TakenAs",
                table: "arrivals",
                type: "TEXT",
                nullable: true);

            // Names that two orders came to have at once are told apart by their id.
            migrationBuilder.Sql("UPDATE orders SET Name = coalesce(json_extract(\"Order\", '$.name'), Id)");
            migrationBuilder.Sql(
                "UPDATE orders SET Name = Name || ' (' || Id || ')' WHERE EXISTS (SELECT 1 FROM orders o WHERE o.Name = orders.Name AND o.rowid < orders.rowid)");

            migrationBuilder.CreateIndex(
                name: "IX_orders_Name",
                table: "orders",
                column: "Name",
                unique: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "IX_orders_Name",
                table: "orders");

            migrationBuilder.DropColumn(
                name: "Name",
                table: "orders");

            migrationBuilder.DropColumn(
                name: "Codes",
                table: "machines");

            migrationBuilder.DropColumn(
                name: "Placing",
                table: "images");

            migrationBuilder.DropColumn(
                name: "TakenAs",
                table: "arrivals");
        }
    }
}
