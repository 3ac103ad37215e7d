CREATE TABLE `receipt` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`audit_id` text NOT NULL,
	`file_name` text NOT NULL,
	`outcome` text NOT NULL,
	`kind` text,
	`target` text,
	`words` text NOT NULL,
	`created_at` integer NOT NULL,
	FOREIGN KEY (`audit_id`) REFERENCES `audit`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `receipt_of_audit` ON `receipt` (`audit_id`,`id`);--> statement-breakpoint
ALTER TABLE `audit` ADD `with_sent` integer DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `script` ADD `fault_entries` text DEFAULT '[]' NOT NULL;--> statement-breakpoint
ALTER TABLE `script` ADD `entries` text DEFAULT '[]' NOT NULL;