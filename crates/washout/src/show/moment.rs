//! Moments, as people and programs read them.

use jiff::Timestamp;
use jiff::tz::TimeZone;

/// `2026-11-23 18:57`, in the time zone of the machine.
pub(crate) fn local(milliseconds: i64) -> String {
    let moment = moment(milliseconds).to_zoned_datetime(TimeZone::system());
    moment.strftime("%Y-%m-%d %H:%M").to_string()
}

/// `2026-11-23T18:57:48Z` (RFC 3339, UTC).
pub(crate) fn rfc3339(milliseconds: i64) -> String {
    moment(milliseconds).strftime("%Y-%m-%dT%H:%M:%SZ").to_string()
}

/// A damaged record must not end a run: what no calendar holds is the first moment of 1970.
fn moment(milliseconds: i64) -> Timestamp {
    Timestamp::from_millisecond(milliseconds).unwrap_or(Timestamp::UNIX_EPOCH)
}

/// `18:57:48`, now, in the time zone of the machine.
pub(crate) fn clock() -> String {
    Timestamp::now().to_zoned_datetime(TimeZone::system()).strftime("%H:%M:%S").to_string()
}
