//! Files of a request: read as far as a limit; written whole or not at all, so that whatever ends the program meanwhile, no half
//! file has the name.

use std::io::{Read as _, Write};
use std::path::Path;
use std::{fs, io};

use crate::failure::Refusal;

/// How large a file of a request may be: beyond any sheet or list, and an end to a device that has none.
pub(crate) const LARGEST: u64 = 256 << 20;

/// The text of a file of a request.
pub(crate) fn read(file: &Path) -> Result<String, Refusal> {
    let text = String::from_utf8(bytes(file)?);
    text.map_err(|e| Refusal::new(format!("`{}` cannot be read: {e}", file.display())))
}

/// The bytes of a file of a request.
pub(crate) fn bytes(file: &Path) -> Result<Vec<u8>, Refusal> {
    let refused = |reason: String| Refusal::new(format!("`{}` cannot be read: {reason}", file.display()));
    let opened = fs::File::open(file).map_err(|e| refused(e.to_string()))?;
    let mut bytes = Vec::new();
    let read = opened.take(LARGEST + 1).read_to_end(&mut bytes).map_err(|e| refused(e.to_string()))?;
    if read as u64 > LARGEST { Err(refused(format!("it is larger than {} MiB", LARGEST >> 20))) } else { Ok(bytes) }
}

/// Writes a file, in the place of one that may be there.
///
/// # Errors
/// Where that fails; what was there before is there still.
pub(crate) fn write(path: &Path, bytes: &[u8]) -> Result<(), Refusal> {
    written(path, bytes).map_err(|e| Refusal::new(format!("`{}` cannot be written: {e}", path.display())))
}

/// Writes beside the file first, and gives that its name when all of it is there.
fn written(path: &Path, bytes: &[u8]) -> io::Result<()> {
    // A link keeps leading to its file; a device or a pipe is written to as it is.
    let path = fs::canonicalize(path).unwrap_or_else(|_| path.to_owned());
    if path.exists() && !path.is_file() {
        return fs::write(path, bytes);
    }
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    fs::metadata(folder)?;
    let mut builder = tempfile::Builder::new();
    builder.prefix(".clear-cascade-");
    let permissions = fs::metadata(&path).ok().map(|known| known.permissions());
    #[cfg(unix)]
    let permissions = permissions.or_else(|| {
        use std::os::unix::fs::PermissionsExt;
        // As any new file; what the user leaves out is taken off by the system.
        Some(fs::Permissions::from_mode(0o666))
    });
    if let Some(permissions) = permissions {
        builder.permissions(permissions);
    }
    // The name of the file beside is told to nobody.
    let mut beside = builder.tempfile_in(folder).map_err(|e| io::Error::from(e.kind()))?;
    beside.write_all(bytes)?;
    beside.as_file().sync_all()?;
    beside.persist(&path)?;
    Ok(())
}
