CREATE TABLE `consents` (
	`kind` text NOT NULL,
	`subject` text NOT NULL,
	`hash` text NOT NULL,
	`at` text NOT NULL,
	PRIMARY KEY(`kind`, `subject`)
);
