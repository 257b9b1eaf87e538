//! The Python package, built from its sources, on the demo data.

mod support;

use std::path::Path;
use std::process::Command;

use support::TestDir;

/// A Python that the package is for. `None`: there is none here.
fn python() -> Option<&'static str> {
    let is_new = "import sys; sys.exit(sys.version_info < (3, 10))";
    let says = |name: &&str| Command::new(name).args(["-c", is_new]).status().is_ok_and(|status| status.success());
    ["python3", "python"].into_iter().find(says)
}

/// Builds the native part and puts the package together in this folder.
fn package(folder: &Path) {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../python");
    let target = Path::new(env!("CARGO_TARGET_TMPDIR")).parent().expect("a target folder").join("python");
    let mut build = Command::new(env!("CARGO"));
    build.args(["build", "--quiet", "--locked", "--manifest-path"]).arg(root.join("Cargo.toml"));
    let built = build.arg("--target-dir").arg(&target).output().expect("cargo runs");
    assert!(built.status.success(), "the package does not build: {}", String::from_utf8_lossy(&built.stderr));
    let to = folder.join("washout");
    std::fs::create_dir(&to).expect("a new folder");
    for entry in std::fs::read_dir(root.join("python/washout")).expect("its sources") {
        let path = entry.expect("an entry").path();
        if path.extension().is_some_and(|extension| extension == "py") {
            std::fs::copy(&path, to.join(path.file_name().expect("a name"))).expect("a copy");
        }
    }
    let library = ["lib_washout.so", "lib_washout.dylib"].map(|name| target.join("debug").join(name));
    let library = library.iter().find(|path| path.exists()).expect("the native part");
    std::fs::copy(library, to.join("_washout.abi3.so")).expect("a copy");
}

/// Cleans each file of a folder, and prints the paths of those that do not become what the command made of them.
const SCRIPT: &str = "
import pathlib, pickle, sys
import washout
rules, given, want = sys.argv[1:]
rules = pickle.loads(pickle.dumps(washout.load(rules)))
files = [path for path in pathlib.Path(given).rglob('*') if path.is_file()]
want = {path.name: path.read_bytes() for path in pathlib.Path(want).rglob('*') if path.is_file()}
for path in files:
    if rules.clean_file(path.read_bytes(), path.name) != want[path.name]:
        print(path)
print(len(files), 'files,', sum(count.changes for count in rules.counts), 'changes')
";

#[test]
fn the_python_package_does_to_the_demo_data_what_the_command_does() {
    let Some(python) = python() else {
        eprintln!("no Python 3.10 or later is here, so its package is not tested");
        return;
    };
    let dir = TestDir::new();
    package(&dir.path("."));
    dir.run(&["demo", "--into", "demo"]).status(0);
    for kind in ["stores", "notices", "radio"] {
        let (rules, given, want) = (format!("demo/{kind}.wash.toml"), format!("demo/{kind}"), format!("{kind}-clean"));
        dir.run(&["clean", "-r", &rules, "--into", &want, &given]).status(0);
        let mut script = Command::new(python);
        script.current_dir(dir.path(".")).args(["-c", SCRIPT, &rules, &given, &want]);
        let said = script.output().expect("Python runs");
        let (out, errors) = (String::from_utf8_lossy(&said.stdout), String::from_utf8_lossy(&said.stderr));
        assert!(said.status.success() && out.lines().count() == 1, "{kind}: {out}{errors}");
        assert!(!out.contains(" 0 changes"), "{kind}: {out}");
    }
}
