CREATE TABLE `bound_giving` (
	`crate_id` text NOT NULL,
	`path` text NOT NULL,
	`sha256` text NOT NULL,
	PRIMARY KEY(`crate_id`, `path`),
	FOREIGN KEY (`crate_id`) REFERENCES `crates`(`id`) ON UPDATE no action ON DELETE cascade
);
