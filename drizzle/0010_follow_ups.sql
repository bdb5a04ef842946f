CREATE TABLE "follow_up_notes" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"follow_up_id" uuid NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"user_id" uuid,
	"user_name" text NOT NULL,
	"note" text NOT NULL,
	"state" text NOT NULL,
	"due" date,
	"given_to" text
);
--> statement-breakpoint
CREATE TABLE "follow_ups" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"desk_id" uuid NOT NULL,
	"place" text NOT NULL,
	"key" text NOT NULL,
	"data_set_id" uuid NOT NULL,
	"dashboard_id" uuid NOT NULL,
	"pane" text NOT NULL,
	"title" text NOT NULL,
	"noun" text NOT NULL,
	"state" text NOT NULL,
	"due" date,
	"given_to" uuid,
	"made_at" timestamp with time zone DEFAULT now() NOT NULL,
	"touched_at" timestamp with time zone DEFAULT now() NOT NULL,
	"touched_by" text NOT NULL,
	CONSTRAINT "follow_ups_of_record" UNIQUE("desk_id","place","key")
);
--> statement-breakpoint
ALTER TABLE "follow_up_notes" ADD CONSTRAINT "follow_up_notes_follow_up_id_follow_ups_id_fk" FOREIGN KEY ("follow_up_id") REFERENCES "public"."follow_ups"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "follow_up_notes" ADD CONSTRAINT "follow_up_notes_user_id_users_id_fk" FOREIGN KEY ("user_id") REFERENCES "public"."users"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "follow_ups" ADD CONSTRAINT "follow_ups_desk_id_desks_id_fk" FOREIGN KEY ("desk_id") REFERENCES "public"."desks"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "follow_ups" ADD CONSTRAINT "follow_ups_dashboard_id_dashboards_id_fk" FOREIGN KEY ("dashboard_id") REFERENCES "public"."dashboards"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "follow_ups" ADD CONSTRAINT "follow_ups_given_to_users_id_fk" FOREIGN KEY ("given_to") REFERENCES "public"."users"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "follow_up_notes_of" ON "follow_up_notes" USING btree ("follow_up_id","id");--> statement-breakpoint
CREATE INDEX "follow_ups_by_desk" ON "follow_ups" USING btree ("desk_id","state","touched_at");--> statement-breakpoint
CREATE INDEX "follow_ups_by_person" ON "follow_ups" USING btree ("given_to","state");