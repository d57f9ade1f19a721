CREATE TABLE `crate_edits` (
	`id` text PRIMARY KEY NOT NULL,
	`crate_id` text NOT NULL,
	`edit` text NOT NULL,
	`inverse` text NOT NULL,
	`findings` text NOT NULL,
	`at` text NOT NULL,
	`undone_at` text,
	FOREIGN KEY (`crate_id`) REFERENCES `crates`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `crate_edits_by_crate` ON `crate_edits` (`crate_id`,`at`);