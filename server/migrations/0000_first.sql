CREATE TABLE `analyses` (
	`audio_id` text PRIMARY KEY NOT NULL,
	`analysis` text NOT NULL,
	FOREIGN KEY (`audio_id`) REFERENCES `audio`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE TABLE `audio` (
	`id` text PRIMARY KEY NOT NULL,
	`original_hash` text NOT NULL,
	`original_name` text NOT NULL,
	`format` text NOT NULL,
	`channels` integer NOT NULL,
	`rate_hz` integer NOT NULL,
	`original_rate_hz` integer NOT NULL,
	`length_frames` integer NOT NULL,
	`created_at` integer NOT NULL
);
--> statement-breakpoint
CREATE INDEX `audio_by_original` ON `audio` (`original_hash`);--> statement-breakpoint
CREATE TABLE `edits` (
	`id` text NOT NULL,
	`song_id` text NOT NULL,
	`revision` integer NOT NULL,
	`client_id` text NOT NULL,
	`edit` text NOT NULL,
	`created_at` integer NOT NULL,
	FOREIGN KEY (`song_id`) REFERENCES `songs`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE UNIQUE INDEX `edits_by_revision` ON `edits` (`song_id`,`revision`);--> statement-breakpoint
CREATE UNIQUE INDEX `edits_by_id` ON `edits` (`song_id`,`id`);--> statement-breakpoint
CREATE TABLE `renders` (
	`id` text PRIMARY KEY NOT NULL,
	`song_id` text NOT NULL,
	`revision` integer NOT NULL,
	`file_name` text NOT NULL,
	`format` text NOT NULL,
	`created_at` integer NOT NULL,
	FOREIGN KEY (`song_id`) REFERENCES `songs`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE TABLE `songs` (
	`id` text PRIMARY KEY NOT NULL,
	`title` text NOT NULL,
	`revision` integer NOT NULL,
	`document` text NOT NULL,
	`document_revision` integer NOT NULL,
	`created_at` integer NOT NULL,
	`changed_at` integer NOT NULL,
	`deleted_at` integer
);
