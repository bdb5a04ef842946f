ALTER TABLE "changed_records" ADD COLUMN "outcome" text;--> statement-breakpoint
ALTER TABLE "changed_records" ADD COLUMN "why" text;