//! Who may do what in a store: logins are put into groups, and told apart by the rigs whose sessions they may write.

use crate::error::StoreError;
use crate::schema::{PACKED, PACKED_COLUMNS, SCHEMA, sent};
use crate::store::Store;
use honest_lap_logbook::carry::shapes;

/// What a login may do. Whoever may do anything may read.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Access {
    /// The login, a role of the server.
    pub role: String,
    /// Rigs whose sessions it may write; `*` is any.
    pub rigs: Vec<String>,
    /// Whether it may add remarks.
    pub remarks: bool,
}

const RIGS: &str = "lap_rigs";
const PEOPLE: &str = "lap_people";
const READERS: &str = "lap_readers";

impl Store {
    /// Makes the groups that logins are put into, and says what each may do. Nobody but the owner may alter or delete, and what is recorded not even
    /// the owner: the rules say so.
    pub fn make_groups(&mut self) -> Result<(), StoreError> {
        let mut all = Vec::new();
        for group in [RIGS, PEOPLE, READERS] {
            all.push(format!(
            "DO $$ BEGIN CREATE ROLE {group} NOLOGIN; EXCEPTION WHEN duplicate_object THEN NULL; END $$"
        ));
        }
        let groups = format!("{RIGS}, {PEOPLE}, {READERS}");
        all.push(format!("GRANT USAGE ON SCHEMA {SCHEMA} TO {groups}"));
        all.push(format!("GRANT SELECT ON ALL TABLES IN SCHEMA {SCHEMA} TO {groups}"));
        all.push(format!(
            "GRANT EXECUTE ON FUNCTION {SCHEMA}.writes(text), {SCHEMA}.remarks(), {SCHEMA}.stretch(bigint),
                 {SCHEMA}.steps(bigint[]), {SCHEMA}.alike_in(bigint, bigint), {SCHEMA}.t(text, text, text),
                 {SCHEMA}.n(text, bigint) TO {groups}"
        ));
        all.push(format!("GRANT USAGE ON SEQUENCE {SCHEMA}.place TO {RIGS}, {PEOPLE}"));
        for table in shapes() {
            let group = if table.name == "remark" { PEOPLE } else { RIGS };
            let columns: Vec<&str> = sent(&table).iter().map(|column| column.name).collect();
            let (name, columns) = (table.name, columns.join(", "));
            all.push(format!("GRANT INSERT ({columns}) ON {SCHEMA}.{name} TO {group}"));
        }
        let columns = PACKED_COLUMNS.join(", ");
        all.push(format!("GRANT INSERT ({columns}) ON {SCHEMA}.{PACKED} TO {RIGS}"));
        self.client
            .batch_execute(&all.join(";\n"))
            .map_err(StoreError::of("making the groups of logins"))
    }

    /// Returns whether the groups are there and may do something in this store: they are the server's, which may have several.
    pub(crate) fn has_groups(&mut self) -> Result<bool, StoreError> {
        let asked = "SELECT count(*) FROM pg_roles
                     WHERE rolname = ANY ($1) AND has_schema_privilege(oid, $2::text, 'USAGE')";
        let groups = [RIGS, PEOPLE, READERS];
        let row = self.client.query_one(asked, &[&&groups[..], &SCHEMA]);
        let found: i64 = row.map_err(StoreError::of("looking for the groups of logins"))?.get(0);
        Ok(found == groups.len() as i64)
    }

    /// Lets a login do what `access` says, beside what it may do already.
    ///
    /// * Errors: there is no such role; this login is not the store's owner.
    pub fn allow(&mut self, access: &Access) -> Result<(), StoreError> {
        let failed = || StoreError::of(format!("giving rights to {}", access.role));
        // A store that a first `lap sync` made has none yet.
        if !self.has_groups()? {
            self.make_groups()?;
        }
        let mut given = self.client.transaction().map_err(failed())?;
        let asked = "SELECT quote_ident(rolname) FROM pg_roles WHERE rolname = $1";
        let role: String = match given.query_opt(asked, &[&access.role]).map_err(failed())? {
            Some(row) => row.get(0),
            None => {
                return Err(StoreError::Unfit {
                    problem: format!("the server has no role `{}`", access.role),
                    remedy: format!(
                        "whoever runs it makes one: CREATE ROLE \"{}\" LOGIN",
                        access.role
                    ),
                });
            }
        };
        let mut groups = vec![READERS];
        if !access.rigs.is_empty() {
            groups.push(RIGS);
        }
        if access.remarks {
            groups.push(PEOPLE);
        }
        for group in groups {
            given.batch_execute(&format!("GRANT {group} TO {role}")).map_err(failed())?;
        }
        for rig in &access.rigs {
            let insert = format!(
                "INSERT INTO {SCHEMA}.may_write (role, rig) VALUES ($1::text::name, $2) ON CONFLICT DO NOTHING"
            );
            given.execute(&insert, &[&access.role, rig]).map_err(failed())?;
        }
        if access.remarks {
            let insert = format!(
                "INSERT INTO {SCHEMA}.may_remark (role) VALUES ($1::text::name) ON CONFLICT DO NOTHING"
            );
            given.execute(&insert, &[&access.role]).map_err(failed())?;
        }
        given.commit().map_err(failed())
    }

    /// Returns every login that may do more than read, by name.
    pub fn accesses(&mut self) -> Result<Vec<Access>, StoreError> {
        let asked = format!(
            "SELECT role::text,
                 coalesce(array_agg(rig ORDER BY rig) FILTER (WHERE rig IS NOT NULL), '{{}}'),
                 bool_or(remarks)
             FROM (SELECT role, rig, false AS remarks FROM {SCHEMA}.may_write
                   UNION ALL SELECT role, NULL, true FROM {SCHEMA}.may_remark) every
             GROUP BY role ORDER BY role"
        );
        let rows =
            self.client.query(&asked, &[]).map_err(StoreError::of("reading who may what"))?;
        let access = |row: &postgres::Row| Access {
            role: row.get(0),
            rigs: row.get(1),
            remarks: row.get(2),
        };
        Ok(rows.iter().map(access).collect())
    }
}
