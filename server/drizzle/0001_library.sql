CREATE TABLE `packs` (
	`id` text PRIMARY KEY NOT NULL,
	`crate_id` text NOT NULL,
	`about` text NOT NULL,
	`described` integer NOT NULL,
	`entries` text NOT NULL,
	`opened_at` text NOT NULL,
	FOREIGN KEY (`crate_id`) REFERENCES `crates`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `trash` (
	`id` text PRIMARY KEY NOT NULL,
	`crate_id` text NOT NULL,
	`files` text NOT NULL,
	`records` text NOT NULL,
	`materials` text NOT NULL,
	`removed_at` text NOT NULL,
	FOREIGN KEY (`crate_id`) REFERENCES `crates`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `watches` (
	`crate_id` text PRIMARY KEY NOT NULL,
	`folder` text NOT NULL,
	`automatic` integer NOT NULL,
	FOREIGN KEY (`crate_id`) REFERENCES `crates`(`id`) ON UPDATE no action ON DELETE cascade
);
