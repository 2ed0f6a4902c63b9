using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace FreshBoot.Data.Migrations
{
    /// <inheritdoc />
    public partial class WhatItSays : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<long>(
                name: "Number",
                table: "runs",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0L);

            migrationBuilder.AddColumn<string>(
                name: "Seal",
                table: "runs",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "BackupOf",
                table: "roms",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "Board",
                table: "roms",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "BoardBy",
                table: "roms",
                type: "TEXT",
                nullable: true);

            // Runs of before in the order of their ids, which is that of the clock they were begun by.
            migrationBuilder.Sql("UPDATE runs SET Number = (SELECT COUNT(*) FROM runs AS r WHERE r.Id <= runs.Id)");

            migrationBuilder.CreateIndex(
                name: "IX_runs_Number",
                table: "runs",
                column: "Number",
                unique: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "IX_runs_Number",
                table: "runs");

            migrationBuilder.DropColumn(
                name: "Number",
                table: "runs");

            migrationBuilder.DropColumn(
                name: "Seal",
                table: "runs");

            migrationBuilder.DropColumn(
                name: "BackupOf",
                table: "roms");

            migrationBuilder.DropColumn(
                name: "Board",
                table: "roms");

            migrationBuilder.DropColumn(
                name: "BoardBy",
                table: "roms");
        }
    }
}
