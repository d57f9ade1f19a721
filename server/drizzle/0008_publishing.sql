CREATE TABLE `uploads` (
	`id` text PRIMARY KEY NOT NULL,
	`crate_id` text NOT NULL,
	`package_id` text NOT NULL,
	`workshop` text NOT NULL,
	`notes` text NOT NULL,
	`visibility` text NOT NULL,
	`bytes` integer NOT NULL,
	`begun` text,
	`state` text NOT NULL,
	`problem` text,
	`created_at` text NOT NULL,
	FOREIGN KEY (`crate_id`) REFERENCES `crates`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
ALTER TABLE `packages` ADD `contents` text;