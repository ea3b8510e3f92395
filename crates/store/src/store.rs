//! A store that was reached: made where there is none, of a format that is known.

use crate::address::Address;
use crate::error::StoreError;
use crate::schema::{ALIKE, SCHEMA, brought_up, schema};
use honest_lap_logbook::carry;
use postgres::{Client, GenericClient};

/// An open store.
pub struct Store {
    pub(crate) client: Client,
    /// As whom it is asked.
    pub(crate) role: String,
    format: u32,
}

/// What is known of a database before anything is asked of a store in it.
struct Found {
    role: String,
    has_store: bool,
    may_use: bool,
    owns: bool,
    may_make: bool,
    is_utf8: bool,
    version: i32,
}

/// The oldest server whose rules do what ours ask of them.
const OLDEST: i32 = 130_000;

impl Store {
    /// Reaches the store at `address`, which must be there.
    pub fn open(address: &Address) -> Result<Self, StoreError> {
        let mut client = address.connect()?;
        let found = look(&mut client)?;
        match (found.has_store, found.may_use) {
            (true, true) => Self::ours(client, found.role),
            (true, false) => Err(StoreError::Unfit {
                problem: format!("`{}` may not read the store", found.role),
                remedy: format!("its owner says who may: lap store allow {} --reads", found.role),
            }),
            (false, _) => Err(StoreError::NoStore { role: found.role }),
        }
    }

    /// Reaches the store at `address`, and makes it where there is none; returns whether it did.
    pub fn open_or_make(address: &Address) -> Result<(Self, bool), StoreError> {
        let mut client = address.connect()?;
        let found = look(&mut client)?;
        if found.has_store {
            let is_old = found.owns && !has_alike(&mut client)?;
            if is_old {
                bring_up(&mut client)?;
            }
            let mut store = Self::open(address)?;
            if is_old && store.has_groups()? {
                store.make_groups()?;
            }
            return Ok((store, false));
        }
        if !found.may_make {
            return Err(StoreError::NoStore { role: found.role });
        }
        if found.version < OLDEST || !found.is_utf8 {
            return Err(StoreError::Unfit {
                problem: "a store needs PostgreSQL 13 or newer, and a database in UTF-8".to_owned(),
                remedy: "createdb --encoding=UTF8 --template=template0 laps, on such a server"
                    .to_owned(),
            });
        }
        let failed = || StoreError::of("making the store");
        let mut made = client.transaction().map_err(failed())?;
        // Two who come first at once make it once.
        made.execute("SELECT pg_advisory_xact_lock(hashtext($1))", &[&SCHEMA]).map_err(failed())?;
        let there = "SELECT EXISTS (SELECT 1 FROM pg_namespace WHERE nspname = $1)";
        if made.query_one(there, &[&SCHEMA]).map_err(failed())?.get(0) {
            made.rollback().map_err(failed())?;
            return Self::open(address).map(|store| (store, false));
        }
        made.batch_execute(&schema(carry::format())).map_err(failed())?;
        let owner = format!(
            "INSERT INTO {SCHEMA}.may_write (role, rig) VALUES (session_user, '*');
             INSERT INTO {SCHEMA}.may_remark (role) VALUES (session_user);"
        );
        made.batch_execute(&owner).map_err(failed())?;
        made.commit().map_err(failed())?;
        Ok((Self::ours(client, found.role)?, true))
    }

    fn ours(mut client: Client, role: String) -> Result<Self, StoreError> {
        let asked = format!("SELECT format FROM {SCHEMA}.store");
        let row = client.query_one(&asked, &[]).map_err(StoreError::of("reading its format"))?;
        let (format, known) = (row.get::<_, i64>(0), carry::format());
        let format = u32::try_from(format).unwrap_or(u32::MAX);
        if format > known {
            return Err(StoreError::TooNew { found: format, known });
        }
        if !has_alike(&mut client)? {
            return Err(StoreError::Unfit {
                problem: "the store was made before laps were kept together".to_owned(),
                remedy: "its owner brings it up: lap store init".to_owned(),
            });
        }
        Ok(Self { client, role, format })
    }

    /// Returns as whom the store is asked.
    pub fn role(&self) -> &str {
        &self.role
    }

    /// Returns an error where records of this version have columns that the store has not.
    pub(crate) fn takes_ours(&self) -> Result<(), StoreError> {
        match carry::format() {
            known if known > self.format => Err(StoreError::TooOld { found: self.format, known }),
            _ => Ok(()),
        }
    }
}

fn has_alike(client: &mut impl GenericClient) -> Result<bool, StoreError> {
    let asked = format!("SELECT to_regclass('{SCHEMA}.{ALIKE}') IS NOT NULL");
    let row = client.query_one(&asked, &[]).map_err(StoreError::of("reading its format"))?;
    Ok(row.get(0))
}

/// Brings up a store that was made before laps were kept together.
fn bring_up(client: &mut Client) -> Result<(), StoreError> {
    let failed = || StoreError::of("bringing the store up");
    let mut up = client.transaction().map_err(failed())?;
    // Nothing comes in meanwhile that the rules of before would let in; and of two who come at once, one does it.
    let alone = format!("LOCK TABLE {SCHEMA}.seal IN SHARE ROW EXCLUSIVE MODE");
    up.batch_execute(&alone).map_err(failed())?;
    if has_alike(&mut up)? {
        return Ok(());
    }
    up.batch_execute(&brought_up()).map_err(failed())?;
    up.commit().map_err(failed())
}

fn look(client: &mut Client) -> Result<Found, StoreError> {
    let asked = "SELECT session_user::text,
             EXISTS (SELECT 1 FROM pg_namespace WHERE nspname = $1),
             coalesce((SELECT has_schema_privilege(oid, 'USAGE') FROM pg_namespace WHERE nspname = $1), false),
             coalesce((SELECT pg_has_role(nspowner, 'USAGE') FROM pg_namespace WHERE nspname = $1), false),
             has_database_privilege(current_database(), 'CREATE'),
             getdatabaseencoding() = 'UTF8',
             current_setting('server_version_num')::int";
    let row = client.query_one(asked, &[&SCHEMA]).map_err(StoreError::of("looking for a store"))?;
    Ok(Found {
        role: row.get(0),
        has_store: row.get(1),
        may_use: row.get(2),
        owns: row.get(3),
        may_make: row.get(4),
        is_utf8: row.get(5),
        version: row.get(6),
    })
}
