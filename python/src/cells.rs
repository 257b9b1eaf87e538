//! Arrow's arrays of texts as cells, and cells as such arrays.

use std::sync::Arc;

use arrow_array::cast::AsArray;
use arrow_array::types::{ByteArrayType, ByteViewType};
use arrow_array::{
    Array, ArrayRef, BinaryArray, BinaryViewArray, GenericByteArray, GenericByteViewArray, LargeBinaryArray,
    LargeStringArray, StringArray, StringViewArray,
};
use arrow_buffer::{BooleanBuffer, Buffer, NullBuffer, OffsetBuffer, ScalarBuffer};
use arrow_schema::{ArrowError, DataType};
use washout_core::table::{Cells, WashedCells};

/// Whether cells of this type are texts.
pub(crate) fn is_text(kind: &DataType) -> bool {
    match kind {
        DataType::Utf8
        | DataType::LargeUtf8
        | DataType::Utf8View
        | DataType::Binary
        | DataType::LargeBinary
        | DataType::BinaryView => true,
        DataType::Dictionary(_, value) => is_text(value),
        _ => false,
    }
}

struct Bytes<'a, T: ByteArrayType>(&'a GenericByteArray<T>);
struct Views<'a, T: ByteViewType + ?Sized>(&'a GenericByteViewArray<T>);

impl<T: ByteArrayType> Cells for Bytes<'_, T> {
    fn count(&self) -> usize {
        self.0.len()
    }

    fn cell(&self, index: usize) -> Option<&[u8]> {
        self.0.is_valid(index).then(|| self.0.value(index).as_ref())
    }
}

impl<T: ByteViewType + ?Sized> Cells for Views<'_, T> {
    fn count(&self) -> usize {
        self.0.len()
    }

    fn cell(&self, index: usize) -> Option<&[u8]> {
        self.0.is_valid(index).then(|| self.0.value(index).as_ref())
    }
}

/// The cells of an array of texts that is no dictionary.
pub(crate) fn cells(array: &dyn Array) -> Option<Box<dyn Cells + '_>> {
    Some(match array.data_type() {
        DataType::Utf8 => Box::new(Bytes(array.as_string::<i32>())),
        DataType::LargeUtf8 => Box::new(Bytes(array.as_string::<i64>())),
        DataType::Utf8View => Box::new(Views(array.as_string_view())),
        DataType::Binary => Box::new(Bytes(array.as_binary::<i32>())),
        DataType::LargeBinary => Box::new(Bytes(array.as_binary::<i64>())),
        DataType::BinaryView => Box::new(Views(array.as_binary_view())),
        _ => return None,
    })
}

/// Why cells cannot be an array of their type.
pub(crate) enum Unfit {
    /// They have more bytes than offsets of 32 bits reach.
    TooMany,
    /// A text would hold bytes that are not UTF-8.
    NoUtf8,
}

fn offsets_32(cells: &WashedCells) -> Result<OffsetBuffer<i32>, Unfit> {
    let narrow = |offset: &usize| i32::try_from(*offset).map_err(|_| Unfit::TooMany);
    let narrow: Vec<i32> = cells.offsets().iter().map(narrow).collect::<Result<_, _>>()?;
    Ok(OffsetBuffer::new(ScalarBuffer::from(narrow)))
}

fn offsets_64(cells: &WashedCells) -> OffsetBuffer<i64> {
    let wide = cells.offsets().iter().map(|offset| i64::try_from(*offset).unwrap_or(i64::MAX));
    OffsetBuffer::new(wide.collect::<Vec<_>>().into())
}

/// An array of this type, which is one of texts and no dictionary.
pub(crate) fn array(kind: &DataType, cells: WashedCells) -> Result<ArrayRef, Unfit> {
    let valid: Vec<bool> = cells.missing().iter().map(|missing| !missing).collect();
    let nulls = (!valid.is_empty()).then(|| NullBuffer::new(BooleanBuffer::from(valid)));
    let no_utf8 = |_: ArrowError| Unfit::NoUtf8;
    Ok(match kind {
        DataType::Utf8 => {
            let offsets = offsets_32(&cells)?;
            Arc::new(StringArray::try_new(offsets, Buffer::from_vec(cells.into_parts().0), nulls).map_err(no_utf8)?)
        }
        DataType::LargeUtf8 => {
            let offsets = offsets_64(&cells);
            Arc::new(
                LargeStringArray::try_new(offsets, Buffer::from_vec(cells.into_parts().0), nulls).map_err(no_utf8)?,
            )
        }
        DataType::Binary => {
            let offsets = offsets_32(&cells)?;
            Arc::new(BinaryArray::new(offsets, Buffer::from_vec(cells.into_parts().0), nulls))
        }
        DataType::LargeBinary => {
            let offsets = offsets_64(&cells);
            Arc::new(LargeBinaryArray::new(offsets, Buffer::from_vec(cells.into_parts().0), nulls))
        }
        DataType::BinaryView => {
            let of = |cell| cells.cell(cell);
            Arc::new((0..cells.count()).map(of).collect::<BinaryViewArray>())
        }
        _ => {
            let text = |cell: usize| cells.cell(cell).map(std::str::from_utf8).transpose().map_err(|_| Unfit::NoUtf8);
            Arc::new((0..cells.count()).map(text).collect::<Result<StringViewArray, _>>()?)
        }
    })
}
