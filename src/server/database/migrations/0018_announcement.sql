CREATE TABLE `announcement` (
	`audit_id` text PRIMARY KEY NOT NULL,
	`host` text NOT NULL,
	`capabilities` text NOT NULL,
	`max_redirects` integer,
	`created_at` integer NOT NULL,
	FOREIGN KEY (`audit_id`) REFERENCES `audit`(`id`) ON UPDATE no action ON DELETE cascade
);
