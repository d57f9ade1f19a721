CREATE TABLE `builds` (
	`id` text PRIMARY KEY NOT NULL,
	`crate_id` text NOT NULL,
	`map` text NOT NULL,
	`quality` text NOT NULL,
	`input_hash` text NOT NULL,
	`ok` integer NOT NULL,
	`stages` text NOT NULL,
	`artefacts` text NOT NULL,
	`created_at` text NOT NULL,
	FOREIGN KEY (`crate_id`) REFERENCES `crates`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `builds_by_crate` ON `builds` (`crate_id`,`created_at`);--> statement-breakpoint
CREATE TABLE `crates` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`manifest` text NOT NULL,
	`created_at` text NOT NULL,
	`updated_at` text NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `crates_name_unique` ON `crates` (`name`);--> statement-breakpoint
CREATE TABLE `files` (
	`crate_id` text NOT NULL,
	`path` text NOT NULL,
	`sha256` text NOT NULL,
	`bytes` integer NOT NULL,
	`findings` text NOT NULL,
	PRIMARY KEY(`crate_id`, `path`),
	FOREIGN KEY (`crate_id`) REFERENCES `crates`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `jobs` (
	`id` text PRIMARY KEY NOT NULL,
	`kind` text NOT NULL,
	`crate_id` text,
	`label` text NOT NULL,
	`state` text NOT NULL,
	`step` text NOT NULL,
	`progress` real NOT NULL,
	`result` text,
	`error` text,
	`log` text NOT NULL,
	`created_at` text NOT NULL,
	`finished_at` text,
	FOREIGN KEY (`crate_id`) REFERENCES `crates`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `jobs_by_crate` ON `jobs` (`crate_id`,`created_at`);--> statement-breakpoint
CREATE TABLE `map_edits` (
	`crate_id` text NOT NULL,
	`map` text NOT NULL,
	`revision` integer NOT NULL,
	`edit` text NOT NULL,
	`at` text NOT NULL,
	PRIMARY KEY(`crate_id`, `map`, `revision`),
	FOREIGN KEY (`crate_id`) REFERENCES `crates`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `maps` (
	`crate_id` text NOT NULL,
	`name` text NOT NULL,
	`document` text NOT NULL,
	`revision` integer NOT NULL,
	PRIMARY KEY(`crate_id`, `name`),
	FOREIGN KEY (`crate_id`) REFERENCES `crates`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `packages` (
	`id` text PRIMARY KEY NOT NULL,
	`crate_id` text NOT NULL,
	`sha256` text NOT NULL,
	`bytes` integer NOT NULL,
	`input_hash` text NOT NULL,
	`manifest` text NOT NULL,
	`findings` text NOT NULL,
	`created_at` text NOT NULL,
	FOREIGN KEY (`crate_id`) REFERENCES `crates`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `releases` (
	`share_code` text PRIMARY KEY NOT NULL,
	`crate_id` text NOT NULL,
	`package_id` text NOT NULL,
	`version` text NOT NULL,
	`workshop` text NOT NULL,
	`published_at` text NOT NULL,
	FOREIGN KEY (`crate_id`) REFERENCES `crates`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `settings` (
	`key` text PRIMARY KEY NOT NULL,
	`value` text NOT NULL
);
