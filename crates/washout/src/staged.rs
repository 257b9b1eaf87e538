//! What is staged for the next commit, as files in a folder of their own.

use std::fs;
use std::io::{self, BufRead, BufReader, Read, Write};
use std::path::{Path, PathBuf};
use std::process::{Child, ChildStdin, ChildStdout, Command, Stdio};

use tempfile::TempDir;

use crate::exit::Trouble;
use crate::git;
use crate::project::is_rule_set_name;
use crate::show::visible::shown_path;

/// Files that are added or changed in the index, with the contents they have there. The folder goes when this does.
pub(crate) struct StagedFiles {
    folder: TempDir,
    /// Their paths, from the top of the repository.
    pub(crate) paths: Vec<PathBuf>,
}

impl StagedFiles {
    /// Copies them. Links, submodules and rule sets are not among them.
    ///
    /// The contents come from the object database: a checkout would change line ends and run filters.
    pub(crate) fn copy() -> Result<Self, Trouble> {
        let folder = tempfile::Builder::new().prefix("washout-staged-").tempdir();
        let folder =
            folder.map_err(|error| Trouble::File(std::env::temp_dir().to_string_lossy().into_owned(), error))?;
        let list =
            git::output(&["diff", "--cached", "--raw", "--no-abbrev", "--no-renames", "--diff-filter=ACMT", "-z"])?;
        let mut words = list.split(|byte| *byte == 0);
        let (mut paths, mut objects) = (Vec::new(), Objects::open()?);
        // `:OLD-MODE NEW-MODE OLD-ID NEW-ID STATUS`, then the path.
        while let (Some(entry), Some(path)) = (words.next(), words.next()) {
            let entry = String::from_utf8_lossy(entry);
            let mut parts = entry.split(' ').skip(1);
            let (mode, id) = (parts.next().unwrap_or_default(), parts.nth(1).unwrap_or_default());
            let path = git::path_of(path);
            let is_rule_set = is_rule_set_name(&path.to_string_lossy());
            if mode.starts_with("100") && !is_rule_set {
                let copy = folder.path().join(&path);
                let copied = objects.copy(id, &copy);
                copied.map_err(|error| Trouble::File(format!("{} in the index", shown_path(&path)), error))?;
                paths.push(path);
            }
        }
        objects.close();
        Ok(Self { folder, paths })
    }

    pub(crate) fn folder(&self) -> &Path {
        self.folder.path()
    }
}

/// `git cat-file --batch`: one process for all contents.
struct Objects {
    child: Child,
    ask: Option<ChildStdin>,
    answers: BufReader<ChildStdout>,
}

impl Objects {
    fn open() -> Result<Self, Trouble> {
        let cannot = |error: io::Error| Trouble::Usage(format!("git cannot be run: {error}"));
        let mut git = Command::new("git");
        let git = git.args(["cat-file", "--batch"]).stdin(Stdio::piped()).stdout(Stdio::piped());
        let mut child = git.spawn().map_err(cannot)?;
        let (ask, answers) = (child.stdin.take(), child.stdout.take());
        let answers = answers.ok_or_else(|| cannot(io::ErrorKind::BrokenPipe.into()))?;
        Ok(Self { child, ask, answers: BufReader::new(answers) })
    }

    /// Writes the content of this id into a new file.
    fn copy(&mut self, id: &str, file: &Path) -> io::Result<()> {
        let ask = self.ask.as_mut().ok_or(io::ErrorKind::BrokenPipe)?;
        writeln!(ask, "{id}")?;
        ask.flush()?;
        // `ID TYPE LEN`, then the content and a line end.
        let mut header = String::new();
        self.answers.read_line(&mut header)?;
        let len = header.trim_end().rsplit(' ').next().and_then(|len| len.parse::<u64>().ok());
        let len = len.ok_or_else(|| io::Error::other(format!("git says: {}", header.trim_end())))?;
        fs::create_dir_all(file.parent().unwrap_or(file))?;
        let mut out = fs::File::create_new(file)?;
        if io::copy(&mut (&mut self.answers).take(len), &mut out)? < len {
            return Err(io::ErrorKind::UnexpectedEof.into());
        }
        self.answers.read_exact(&mut [0])
    }

    fn close(mut self) {
        drop(self.ask.take());
        // It only read.
        let _ = self.child.wait();
    }
}
