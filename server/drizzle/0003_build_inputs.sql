ALTER TABLE `builds` ADD `inputs` text;--> statement-breakpoint
ALTER TABLE `builds` ADD `parameters` text;