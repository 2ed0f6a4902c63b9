using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace FreshBoot.Data.Migrations
{
    /// <inheritdoc />
    public partial class ImageSource : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<DateOnly>(
                name: "SourceUntil",
                table: "images",
                type: "TEXT",
                nullable: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "SourceUntil",
                table: "images");
        }
    }
}
