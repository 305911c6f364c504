"""`hollow-pin export` and `import`: between the record and files."""

from __future__ import annotations

import argparse
import io
import sys
from pathlib import Path

from hollow_pin.bench.imports import AlreadyHere, hash_of, import_take, require_new_samples
from hollow_pin.bench.intake import Arrival, take_in
from hollow_pin.bench.takes import export_recording
from hollow_pin.cli.common import now, read_file, takes_data
from hollow_pin.cli.errors import Unusable
from hollow_pin.core.controller import Model
from hollow_pin.core.job import stick_name
from hollow_pin.core.record import JobDetails
from hollow_pin.formats.recording_csv import read_recording, write_recording
from hollow_pin.store.controllers import find_controller, find_model
from hollow_pin.store.database import Database
from hollow_pin.store.jobs import open_job_of


def arguments_export(parser: argparse.ArgumentParser) -> None:
    parser.description = (
        "Write a take's raw samples to standard output, or to --output.\n\n"
        "  hollow-pin export 12 --output take-12.csv"
    )
    parser.add_argument("take", type=_number, metavar="TAKE", help="the take's number")
    parser.add_argument("--output", type=Path, metavar="FILE")
    takes_data(parser)


def _number(text: str) -> int:
    if not text.isdecimal() or len(text) > 15 or not int(text):
        raise argparse.ArgumentTypeError(f"{text[:20]} is not a take's number")
    return int(text)


def arguments_import(parser: argparse.ArgumentParser) -> None:
    parser.description = (
        "Put a recording file into the open job of a controller; a job is opened where none is.\n\n"
        "  hollow-pin import take.csv --tag GS-017 --model plover --stick left\n\n"
        "Tag and stick may stand in the file's header lines instead, as `export` writes them."
    )
    parser.add_argument("file", type=Path, metavar="FILE")
    parser.add_argument("--tag", help="the controller's tag")
    parser.add_argument("--model", help="its model, where it is new, such as plover or dunlin")
    parser.add_argument("--stick", help="which stick, where its model has more than one")
    parser.add_argument(
        "--again", action="store_true", help="also where the same file is there already"
    )
    takes_data(parser)


def run_export(args: argparse.Namespace) -> int:
    with _open_database(args.data).reading() as db:
        recording = export_recording(db, args.take)
    if args.output is None:
        sys.stdout.writelines(write_recording(recording))
        return 0
    try:
        with args.output.open("x", encoding="utf-8") as file:
            file.writelines(write_recording(recording))
    except OSError as wrong:
        raise Unusable(f"{args.output}: {wrong.strerror}") from None
    return 0


def _only_stick(model: Model) -> str:
    """The stick that a model has, where it is one. Raises Unusable where there are more to name."""
    sticks = [s.name for s in model.sticks]
    if len(sticks) == 1:
        return sticks[0]
    raise Unusable(f"which stick is it? Name it with --stick: {' or '.join(sticks)}.")


def _open_database(folder: Path) -> Database:
    if not folder.is_dir():
        raise Unusable(f"{folder} is not there. Name the bench's folder with --data.")
    return Database(folder)


def run_import(args: argparse.Namespace) -> int:
    file_hash = "" if args.again else hash_of(io.BytesIO(read_file(args.file)))
    recording = read_recording(read_file(args.file))
    tag = args.tag or recording.headers.get("controller")
    if tag is None:
        raise Unusable("whose stick is it? Name the controller with --tag.")
    database = Database(args.data)
    with database.reading() as db:
        controller = find_controller(db, tag)
        job = open_job_of(db, controller.id) if controller else None
        named = args.model or recording.headers.get("model", "").lower()
        model = controller.model if controller else find_model(db, named)
        stick = args.stick or recording.headers.get("stick") or (job.stick if job else None)
        # Where no model is known, that is what is asked first: by whoever takes it in.
        stick = stick or (_only_stick(model) if model else "")
        try:
            if job is not None:
                require_new_samples(db, job.id, stick, file_hash)
        except AlreadyHere as here:
            print(f"{here} (--again brings it in once more)")
            return 0
    if job is None:
        new_model = args.model if controller else named
        job = take_in(database, Arrival(tag, new_model or None, JobDetails(stick)), now())
    take = import_take(
        database, job.id, stick, args.file.name, recording, now(), file_hash=file_hash
    )
    print(f"Take {take.id} of {tag}, {stick_name(stick)}, {take.stage}: job {job.id}.")
    return 0
