CREATE TABLE `aside` (
	`audit_id` text NOT NULL,
	`key` text NOT NULL,
	`facts` text NOT NULL,
	`reason` text NOT NULL,
	`created_at` integer NOT NULL,
	PRIMARY KEY(`audit_id`, `key`),
	FOREIGN KEY (`audit_id`) REFERENCES `audit`(`id`) ON UPDATE no action ON DELETE cascade
);
