CREATE TABLE `map_snapshots` (
	`crate_id` text NOT NULL,
	`map` text NOT NULL,
	`revision` integer NOT NULL,
	`document` text NOT NULL,
	`at` text NOT NULL,
	PRIMARY KEY(`crate_id`, `map`, `revision`),
	FOREIGN KEY (`crate_id`) REFERENCES `crates`(`id`) ON UPDATE no action ON DELETE cascade
);
