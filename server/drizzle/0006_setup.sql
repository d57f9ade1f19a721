CREATE TABLE `allowed_programs` (
	`hash` text PRIMARY KEY NOT NULL,
	`profile` text NOT NULL,
	`at` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `bound_files` (
	`crate_id` text NOT NULL,
	`path` text NOT NULL,
	`sha256` text NOT NULL,
	PRIMARY KEY(`crate_id`, `path`),
	FOREIGN KEY (`crate_id`) REFERENCES `crates`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `bound_folders` (
	`crate_id` text PRIMARY KEY NOT NULL,
	`folder` text NOT NULL,
	`bound_at` text NOT NULL,
	FOREIGN KEY (`crate_id`) REFERENCES `crates`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `downloads` (
	`id` text PRIMARY KEY NOT NULL,
	`profile` text NOT NULL,
	`item` text NOT NULL,
	`version` text NOT NULL,
	`title` text NOT NULL,
	`install` text NOT NULL,
	`bytes` integer NOT NULL,
	`state` text NOT NULL,
	`problem` text,
	`created_at` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `installs` (
	`folder` text PRIMARY KEY NOT NULL,
	`profile` text NOT NULL,
	`added_at` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `prepared` (
	`install` text NOT NULL,
	`step` text NOT NULL,
	`at` text NOT NULL,
	PRIMARY KEY(`install`, `step`)
);
--> statement-breakpoint
CREATE TABLE `profile_versions` (
	`hash` text PRIMARY KEY NOT NULL,
	`profile` text NOT NULL,
	`at` text NOT NULL
);
--> statement-breakpoint
ALTER TABLE `crates` ADD `install` text;--> statement-breakpoint
ALTER TABLE `crates` ADD `seen_game` text;--> statement-breakpoint
ALTER TABLE `crates` ADD `profile_hash` text;--> statement-breakpoint
ALTER TABLE `crates` ADD `archived_at` text;--> statement-breakpoint
ALTER TABLE `crates` ADD `deleted_at` text;