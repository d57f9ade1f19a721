CREATE TABLE `releases` (
	`share_code` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`title` text NOT NULL,
	`description` text NOT NULL,
	`version` text NOT NULL,
	`profile` text NOT NULL,
	`authors` text NOT NULL,
	`credits` text NOT NULL,
	`bytes` integer NOT NULL,
	`sha256` text NOT NULL,
	`package` blob NOT NULL,
	`thumbnail` blob NOT NULL,
	`published_at` text NOT NULL,
	`downloads` integer DEFAULT 0 NOT NULL
);
