CREATE TABLE `accounts` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`name` text NOT NULL,
	`mail` text NOT NULL,
	`password` text NOT NULL,
	`created_at` text NOT NULL,
	`confirmed_at` text,
	`terms_at` text,
	`moderator` integer DEFAULT false NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `accounts_name_unique` ON `accounts` (`name`);--> statement-breakpoint
CREATE UNIQUE INDEX `accounts_mail_unique` ON `accounts` (`mail`);--> statement-breakpoint
CREATE TABLE `comments` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`mod` integer NOT NULL,
	`account` integer NOT NULL,
	`text` text NOT NULL,
	`at` text NOT NULL,
	`hidden_at` text,
	FOREIGN KEY (`mod`) REFERENCES `mods`(`id`) ON UPDATE no action ON DELETE cascade,
	FOREIGN KEY (`account`) REFERENCES `accounts`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `comments_by_mod` ON `comments` (`mod`);--> statement-breakpoint
CREATE TABLE `downloads` (
	`version` integer NOT NULL,
	`day` text NOT NULL,
	`count` integer NOT NULL,
	PRIMARY KEY(`version`, `day`),
	FOREIGN KEY (`version`) REFERENCES `versions`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `in_use` (
	`who` text NOT NULL,
	`mod` integer NOT NULL,
	`version` text NOT NULL,
	`at` text NOT NULL,
	PRIMARY KEY(`who`, `mod`),
	FOREIGN KEY (`mod`) REFERENCES `mods`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `invitations` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`organisation` integer NOT NULL,
	`account` integer NOT NULL,
	`role` text NOT NULL,
	`at` text NOT NULL,
	`accepted_at` text,
	FOREIGN KEY (`organisation`) REFERENCES `organisations`(`id`) ON UPDATE no action ON DELETE cascade,
	FOREIGN KEY (`account`) REFERENCES `accounts`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `keys` (
	`key` text PRIMARY KEY NOT NULL,
	`account` integer NOT NULL,
	`at` text NOT NULL,
	FOREIGN KEY (`account`) REFERENCES `accounts`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `letters` (
	`hash` text PRIMARY KEY NOT NULL,
	`kind` text NOT NULL,
	`until` text,
	`account` integer,
	`invitation` integer,
	`used_at` text,
	FOREIGN KEY (`account`) REFERENCES `accounts`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `log` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`mod` integer NOT NULL,
	`who` text NOT NULL,
	`what` text NOT NULL,
	`at` text NOT NULL,
	FOREIGN KEY (`mod`) REFERENCES `mods`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `log_by_mod` ON `log` (`mod`);--> statement-breakpoint
CREATE TABLE `mails` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`to` text NOT NULL,
	`subject` text NOT NULL,
	`body` text NOT NULL,
	`link` text NOT NULL,
	`at` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `members` (
	`organisation` integer NOT NULL,
	`account` integer NOT NULL,
	`role` text NOT NULL,
	PRIMARY KEY(`organisation`, `account`),
	FOREIGN KEY (`organisation`) REFERENCES `organisations`(`id`) ON UPDATE no action ON DELETE cascade,
	FOREIGN KEY (`account`) REFERENCES `accounts`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `mods` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`name` text NOT NULL,
	`organisation` integer NOT NULL,
	`profile` text NOT NULL,
	`visibility` text NOT NULL,
	`current` integer,
	`created_at` text NOT NULL,
	`updated_at` text NOT NULL,
	`deleted_at` text,
	FOREIGN KEY (`organisation`) REFERENCES `organisations`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE UNIQUE INDEX `mods_name_unique` ON `mods` (`name`);--> statement-breakpoint
CREATE TABLE `organisations` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`name` text NOT NULL,
	`title` text NOT NULL,
	`created_at` text NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `organisations_name_unique` ON `organisations` (`name`);--> statement-breakpoint
CREATE TABLE `ratings` (
	`mod` integer NOT NULL,
	`account` integer NOT NULL,
	`stars` integer NOT NULL,
	PRIMARY KEY(`mod`, `account`),
	FOREIGN KEY (`mod`) REFERENCES `mods`(`id`) ON UPDATE no action ON DELETE cascade,
	FOREIGN KEY (`account`) REFERENCES `accounts`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `reports` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`mod` integer NOT NULL,
	`comment` integer,
	`account` integer NOT NULL,
	`reason` text NOT NULL,
	`at` text NOT NULL,
	`settled_at` text,
	`outcome` text DEFAULT '' NOT NULL,
	FOREIGN KEY (`mod`) REFERENCES `mods`(`id`) ON UPDATE no action ON DELETE cascade,
	FOREIGN KEY (`comment`) REFERENCES `comments`(`id`) ON UPDATE no action ON DELETE cascade,
	FOREIGN KEY (`account`) REFERENCES `accounts`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `sessions` (
	`hash` text PRIMARY KEY NOT NULL,
	`account` integer NOT NULL,
	`created_at` text NOT NULL,
	`expires_at` text NOT NULL,
	FOREIGN KEY (`account`) REFERENCES `accounts`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `tests` (
	`version` integer NOT NULL,
	`account` integer NOT NULL,
	`works` integer NOT NULL,
	`note` text NOT NULL,
	`at` text NOT NULL,
	PRIMARY KEY(`version`, `account`),
	FOREIGN KEY (`version`) REFERENCES `versions`(`id`) ON UPDATE no action ON DELETE cascade,
	FOREIGN KEY (`account`) REFERENCES `accounts`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `tokens` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`hash` text NOT NULL,
	`account` integer NOT NULL,
	`name` text NOT NULL,
	`scopes` text NOT NULL,
	`created_at` text NOT NULL,
	`used_at` text,
	`revoked_at` text,
	FOREIGN KEY (`account`) REFERENCES `accounts`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE UNIQUE INDEX `tokens_hash_unique` ON `tokens` (`hash`);--> statement-breakpoint
CREATE TABLE `uploads` (
	`id` text PRIMARY KEY NOT NULL,
	`account` integer NOT NULL,
	`share_code` text,
	`problem` text,
	`status` integer,
	`at` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `versions` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`mod` integer NOT NULL,
	`version` text NOT NULL,
	`share_code` text NOT NULL,
	`manifest` text NOT NULL,
	`document` text NOT NULL,
	`signature` text NOT NULL,
	`notes` text NOT NULL,
	`sha256` text NOT NULL,
	`bytes` integer NOT NULL,
	`key` text NOT NULL,
	`by` integer,
	`published_at` text NOT NULL,
	`withdrawn_at` text,
	`withdrawn_for` text DEFAULT '' NOT NULL,
	FOREIGN KEY (`mod`) REFERENCES `mods`(`id`) ON UPDATE no action ON DELETE cascade,
	FOREIGN KEY (`by`) REFERENCES `accounts`(`id`) ON UPDATE no action ON DELETE set null
);
--> statement-breakpoint
CREATE UNIQUE INDEX `versions_share_code_unique` ON `versions` (`share_code`);--> statement-breakpoint
CREATE INDEX `versions_by_content` ON `versions` (`sha256`);--> statement-breakpoint
CREATE UNIQUE INDEX `one_of_a_version` ON `versions` (`mod`,`version`);--> statement-breakpoint
CREATE VIRTUAL TABLE `mods_search` USING fts5(name, title, description, people, tags, tokenize = 'unicode61 remove_diacritics 2', prefix = '2 3');
