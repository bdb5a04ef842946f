CREATE TABLE "change_batches" (
	"id" uuid PRIMARY KEY NOT NULL,
	"place" text NOT NULL,
	"source_id" uuid NOT NULL,
	"data_set_id" uuid NOT NULL,
	"desk_id" uuid,
	"dashboard_id" uuid,
	"pane" text NOT NULL,
	"label" text NOT NULL,
	"way" text NOT NULL,
	"state" text NOT NULL,
	"mark" text,
	"undoes" uuid,
	"user_id" uuid,
	"user_name" text NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"ended_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "changed_records" (
	"batch_id" uuid NOT NULL,
	"position" integer NOT NULL,
	"place" text NOT NULL,
	"key" text NOT NULL,
	"title" text NOT NULL,
	"before" jsonb,
	"after" jsonb,
	CONSTRAINT "changed_records_batch_id_position_pk" PRIMARY KEY("batch_id","position")
);
--> statement-breakpoint
ALTER TABLE "sources" ADD COLUMN "changer" text;--> statement-breakpoint
ALTER TABLE "sources" ADD COLUMN "changer_secret" "bytea";--> statement-breakpoint
ALTER TABLE "change_batches" ADD CONSTRAINT "change_batches_desk_id_desks_id_fk" FOREIGN KEY ("desk_id") REFERENCES "public"."desks"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "change_batches" ADD CONSTRAINT "change_batches_user_id_users_id_fk" FOREIGN KEY ("user_id") REFERENCES "public"."users"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "changed_records" ADD CONSTRAINT "changed_records_batch_id_change_batches_id_fk" FOREIGN KEY ("batch_id") REFERENCES "public"."change_batches"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "change_batches_by_desk" ON "change_batches" USING btree ("desk_id","at");--> statement-breakpoint
CREATE INDEX "change_batches_open" ON "change_batches" USING btree ("state") WHERE state IN ('sending', 'unknown');--> statement-breakpoint
CREATE UNIQUE INDEX "change_batches_undone" ON "change_batches" USING btree ("undoes") WHERE undoes IS NOT NULL AND state <> 'refused';--> statement-breakpoint
CREATE INDEX "changed_records_by_key" ON "changed_records" USING btree ("place","key");