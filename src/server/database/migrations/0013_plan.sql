CREATE TABLE `declined` (
	`audit_id` text NOT NULL,
	`kind` text NOT NULL,
	`what` text NOT NULL,
	`reason` text NOT NULL,
	`created_at` integer NOT NULL,
	PRIMARY KEY(`audit_id`, `kind`, `what`),
	FOREIGN KEY (`audit_id`) REFERENCES `audit`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `plan` (
	`audit_id` text PRIMARY KEY NOT NULL,
	`base` text NOT NULL,
	`said` text NOT NULL,
	`plan` text NOT NULL,
	FOREIGN KEY (`audit_id`) REFERENCES `audit`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
ALTER TABLE `change` ADD `origin` text;--> statement-breakpoint
ALTER TABLE `change` ADD `undoes` integer;--> statement-breakpoint
ALTER TABLE `expectation` ADD `message` integer;