CREATE TABLE `override` (
	`audit_id` text PRIMARY KEY NOT NULL,
	`items` text NOT NULL,
	`reason` text NOT NULL,
	`created_at` integer NOT NULL,
	FOREIGN KEY (`audit_id`) REFERENCES `audit`(`id`) ON UPDATE no action ON DELETE cascade
);
