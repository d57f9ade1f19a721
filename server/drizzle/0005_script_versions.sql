CREATE TABLE `script_versions` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`crate_id` text NOT NULL,
	`path` text NOT NULL,
	`sha256` text NOT NULL,
	`saved_at` text NOT NULL,
	FOREIGN KEY (`crate_id`) REFERENCES `crates`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `script_versions_by_path` ON `script_versions` (`crate_id`,`path`,`id`);