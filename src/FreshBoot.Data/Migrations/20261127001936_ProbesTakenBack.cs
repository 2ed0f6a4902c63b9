using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace FreshBoot.Data.Migrations
{
    /// <inheritdoc />
    public partial class ProbesTakenBack : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "Code",
                table: "bundles",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "FirstReceipt",
                table: "bundles",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0L);

            migrationBuilder.AddColumn<long>(
                name: "LastReceipt",
                table: "bundles",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0L);

            migrationBuilder.AddColumn<string>(
                name: "TakenBackBy",
                table: "bundles",
                type: "TEXT",
                nullable: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "Code",
                table: "bundles");

            migrationBuilder.DropColumn(
                name: "FirstReceipt",
                table: "bundles");

            migrationBuilder.DropColumn(
                name: "LastReceipt",
                table: "bundles");

            migrationBuilder.DropColumn(
                name: "TakenBackBy",
                table: "bundles");
        }
    }
}
