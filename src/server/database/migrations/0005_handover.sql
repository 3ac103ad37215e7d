CREATE TABLE `handed` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`audit_id` text NOT NULL,
	`place` text NOT NULL,
	`script` text NOT NULL,
	`script_hash` text NOT NULL,
	`created_at` integer NOT NULL,
	FOREIGN KEY (`audit_id`) REFERENCES `audit`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `handed_of_audit` ON `handed` (`audit_id`,`id`);--> statement-breakpoint
CREATE TABLE `handover` (
	`audit_id` text PRIMARY KEY NOT NULL,
	`settings` text NOT NULL,
	FOREIGN KEY (`audit_id`) REFERENCES `audit`(`id`) ON UPDATE no action ON DELETE cascade
);
