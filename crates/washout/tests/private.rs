//! Who may read what a run writes, and whose temporary files it removes.

mod support;

use std::fs::{self, Permissions};
use std::os::unix::fs::{MetadataExt, PermissionsExt, symlink};
use std::path::Path;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use support::{TestDir, cannot_run};

const WRITE: [&str; 4] = ["clean", "--rule", "remove.text = 'um '", "--write"];

fn mode(path: &Path) -> u32 {
    path.metadata().expect("it is there").permissions().mode() & 0o7777
}

/// Lets files that are made in a folder be read by one more user. False: the file system has no such lists.
fn let_another_read(folder: &Path) -> bool {
    // Version 2, then for each entry its kind, its rights and a number: owner, the user 4242, group, the most of the two,
    // others. As in `include/uapi/linux/posix_acl_xattr.h`.
    const ENTRIES: [(u16, u16, u32); 5] =
        [(1, 7, u32::MAX), (2, 7, 4242), (4, 5, u32::MAX), (16, 7, u32::MAX), (32, 5, u32::MAX)];
    let mut list = 2_u32.to_le_bytes().to_vec();
    for (kind, rights, id) in ENTRIES {
        list.extend(kind.to_le_bytes().iter().chain(&rights.to_le_bytes()).chain(&id.to_le_bytes()));
    }
    xattr::set(folder, "system.posix_acl_default", &list).is_ok()
}

fn has_list(path: &Path) -> bool {
    xattr::get(path, "system.posix_acl_access").expect("attributes").is_some()
}

#[test]
fn a_result_is_for_those_who_might_read_the_old_file_and_nobody_else() {
    let desk = TestDir::with(&[("old/private.txt", "um fog\n"), ("old/deep/log.txt", "um fog\n")]);
    fs::set_permissions(desk.path("old/private.txt"), Permissions::from_mode(0o640)).expect("a file of ours");
    fs::set_permissions(desk.path("old/deep"), Permissions::from_mode(0o700)).expect("a folder of ours");
    // Only what is made from now on inherits the list.
    fs::create_dir(desk.path("copies")).expect("a folder");
    if !let_another_read(&desk.path("old")) || !let_another_read(&desk.path("copies")) {
        return cannot_run("the file system of temporary files has no access control lists");
    }
    desk.run(&[&WRITE[..], &["old"]].concat()).status(0);
    assert_eq!(desk.read("old/private.txt"), "fog\n");
    assert!(!has_list(&desk.path("old/private.txt")), "the list of the folder was inherited");
    assert_eq!(mode(&desk.path("old/private.txt")), 0o640);
    desk.run(&["undo"]).status(0);
    assert!(!has_list(&desk.path("old/private.txt")), "nor when it is restored");

    fs::set_permissions(desk.path("old/private.txt"), Permissions::from_mode(0o4750)).expect("a file of ours");
    desk.run(&["clean", "--rule", "remove.text = 'um '", "--into", "copies", "old"]).status(0);
    assert_eq!(mode(&desk.path("copies/old/private.txt")), 0o750, "a copy gives nobody the rights of its owner");
    assert!(!has_list(&desk.path("copies/old/private.txt")));
    assert!(!has_list(&desk.path("copies/old")), "nor has the folder it is in a list of its own");
    assert_eq!(mode(&desk.path("copies/old/deep")) & 0o077, 0, "a folder that was closed is closed among the copies");
}

#[test]
fn the_history_is_for_its_owner_alone_also_where_it_was_not() {
    let desk = TestDir::with(&[("a.txt", "um secret\n")]);
    let state = desk.state.path();
    fs::set_permissions(state, Permissions::from_mode(0o755)).expect("a folder of ours");
    fs::write(state.join("history.sqlite"), "").expect("a file");
    fs::set_permissions(state.join("history.sqlite"), Permissions::from_mode(0o644)).expect("a file of ours");
    desk.run(&[&WRITE[..], &["a.txt"]].concat()).status(0);
    assert_eq!(mode(state), 0o700);
    for entry in fs::read_dir(state).expect("a folder").map(|entry| entry.expect("an entry").path()) {
        assert_eq!(mode(&entry) & 0o077, 0, "{}", entry.display());
    }
    if rustix::process::geteuid().is_root() {
        std::os::unix::fs::chown(state, Some(65534), None).expect("another owner");
        desk.run(&["history"]).status(3).warns(&["belongs to another user", "WASHOUT_STATE", "--no-history"]);
    }
}

#[test]
fn temporary_files_are_removed_once_nobody_uses_them_and_never_taken_for_texts() {
    let desk = TestDir::with(&[
        ("d/a.txt", "um fog\n"),
        ("d/.washout-00000000000000a1.part", "um half\n"),
        ("d/e/.washout-00000000000000a2.part", ""),
    ]);
    let all = [&WRITE[..], &["--with-hidden", "--with-binary", "d"]].concat();
    // As another run holds it that is at work in the folder, in whatever namespace.
    let folder = fs::File::open(desk.path("d")).expect("a folder");
    folder.lock_shared().expect("a lock");
    desk.run(&all).status(0).says(&["1 file changed"]);
    assert_eq!(desk.read("d/.washout-00000000000000a1.part"), "um half\n", "it is in use");
    drop(folder);
    desk.run(&["undo", "1"]).status(0).says(&["1 file restored"]);
    assert_eq!(
        desk.files(),
        ["d/a.txt", "d/e/.washout-00000000000000a2.part"],
        "where nothing was written, nothing is removed"
    );

    fs::create_dir_all(desk.state.path().join("originals")).expect("a folder");
    let unsettled = desk.state.path().join("originals/.keeping-0a");
    fs::write(&unsettled, "um half\n").expect("a file");
    desk.run(&["history", "prune"]).status(0);
    assert!(!unsettled.exists());
}

#[test]
fn a_folder_that_another_program_has_locked_is_waited_for_and_then_said() {
    let desk = TestDir::with(&[("d/a.txt", "um fog\n"), ("b.txt", "um fog\n")]);
    let folder = fs::File::open(desk.path("d")).expect("a folder");
    folder.lock().expect("a lock");
    let ran = desk.run(&[&WRITE[..], &["d", "b.txt"]].concat()).status(3);
    ran.warns(&["d/a.txt: ", "another program has locked this folder"]).says(&["1 file changed, 1 failed"]);
    assert_eq!((desk.read("d/a.txt"), desk.read("b.txt")), ("um fog\n".to_owned(), "fog\n".to_owned()));
}

#[test]
fn an_interrupt_ends_the_wait_for_another_program() {
    let desk = TestDir::with(&[("d/a.txt", "um fog\n"), ("b.txt", "um fog\n")]);
    desk.run(&[&WRITE[..], &["b.txt"]].concat()).status(0);
    let folder = fs::File::open(desk.path("d")).expect("a folder");
    folder.lock().expect("a lock");
    let kept = fs::File::open(desk.state.path().join("originals.lock")).expect("the lock of what is kept");
    let interrupted = || {
        let child = desk.command().args(WRITE).arg("d").stdout(Stdio::piped()).stderr(Stdio::piped()).spawn();
        let child = child.expect("the built program");
        // Until it has a handler, an interrupt ends it as any program.
        let caught = || fs::read_to_string(format!("/proc/{}/status", child.id())).unwrap_or_default();
        while !caught()
            .lines()
            .any(|line| line.starts_with("SigCgt:") && line.ends_with(['2', '3', '6', '7', 'a', 'b', 'e', 'f']))
        {
            std::thread::yield_now();
        }
        std::thread::sleep(Duration::from_millis(300));
        let asked = Instant::now();
        assert!(Command::new("kill").args(["-INT", &child.id().to_string()]).status().expect("kill").success());
        let output = child.wait_with_output().expect("an end");
        assert!(asked.elapsed() < Duration::from_secs(5), "it waited on: {output:?}");
        output.status.code()
    };
    assert_eq!(interrupted(), Some(130));
    drop(folder);
    kept.lock().expect("a lock");
    assert_eq!(interrupted(), Some(130));
    assert_eq!(desk.read("d/a.txt"), "um fog\n");
}

#[test]
fn a_link_in_place_of_a_folder_is_not_undone_through() {
    let desk = TestDir::with(&[("d/a.txt", "um fog\n"), ("outside/a.txt", "fog\n")]);
    desk.run(&[&WRITE[..], &["d"]].concat()).status(0);
    fs::rename(desk.path("d"), desk.path("aside")).expect("a folder that moves");
    symlink("outside", desk.path("d")).expect("a link");
    let inode = desk.path("outside/a.txt").metadata().expect("a file").ino();
    desk.run(&["undo"]).status(3).warns(&["d/a.txt: cannot be read: a link has taken its place"]);
    desk.run(&["undo", "--force"]).status(3);
    assert_eq!((desk.read("outside/a.txt"), desk.read("aside/a.txt")), ("fog\n".to_owned(), "fog\n".to_owned()));
    assert_eq!(desk.path("outside/a.txt").metadata().expect("a file").ino(), inode);
}
