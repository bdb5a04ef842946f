CREATE TABLE "opening_scopes" (
	"user_id" uuid NOT NULL,
	"dashboard_id" uuid NOT NULL,
	"scope_id" uuid NOT NULL,
	CONSTRAINT "opening_scopes_user_id_dashboard_id_pk" PRIMARY KEY("user_id","dashboard_id")
);
--> statement-breakpoint
CREATE TABLE "saved_scopes" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"dashboard_id" uuid NOT NULL,
	"owner_id" uuid,
	"name" text NOT NULL,
	"search" text NOT NULL,
	"made_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "opening_scopes" ADD CONSTRAINT "opening_scopes_user_id_users_id_fk" FOREIGN KEY ("user_id") REFERENCES "public"."users"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "opening_scopes" ADD CONSTRAINT "opening_scopes_dashboard_id_dashboards_id_fk" FOREIGN KEY ("dashboard_id") REFERENCES "public"."dashboards"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "opening_scopes" ADD CONSTRAINT "opening_scopes_scope_id_saved_scopes_id_fk" FOREIGN KEY ("scope_id") REFERENCES "public"."saved_scopes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "saved_scopes" ADD CONSTRAINT "saved_scopes_dashboard_id_dashboards_id_fk" FOREIGN KEY ("dashboard_id") REFERENCES "public"."dashboards"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "saved_scopes" ADD CONSTRAINT "saved_scopes_owner_id_users_id_fk" FOREIGN KEY ("owner_id") REFERENCES "public"."users"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "saved_scopes_of_owner" ON "saved_scopes" USING btree ("dashboard_id","owner_id","name") WHERE owner_id IS NOT NULL;--> statement-breakpoint
CREATE UNIQUE INDEX "saved_scopes_for_all" ON "saved_scopes" USING btree ("dashboard_id","name") WHERE owner_id IS NULL;