<?php

namespace App\Files;

use App\Looking\Looker;
use App\Models\Answer;
use App\Models\ClientFile;
use App\Models\Load;
use App\Reading\Part;
use App\Reading\Parts;
use App\Reading\TableOpener;
use Baggage\Core\Reading\Layout;
use Baggage\Core\Reading\ReaderSettings;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Writing\AnswerColumns;
use Baggage\Core\Writing\Reference;
use Illuminate\Support\Facades\DB;

/**
 * Reads a file that came back, whatever order its rows and sheets are in, and lists what was changed in it. In a process of its own:
 * these are foreign bytes.
 */
final class AnswerReader implements Looker
{
    /** Rows of a sheet in which its head is looked for. */
    private const HEAD = 50;

    /** Rows compared at a time, and cells: of wide rows fewer. */
    private const AT_ONCE = 4_000;

    private const CELLS = 80_000;

    private ?ClientFile $file = null;

    /** Its code. A model looks its attributes up anew each time, which rows by the hundred thousand feel. */
    private string $code = '';

    private ?AnswerList $list = null;

    /** @var array<string, array{sheet: string, load: string, missing: list<string>, unknown: list<string>}> titles nobody can match */
    private array $asks = [];

    private int $held = 0;

    /** @var array<int, AnswerLayout|null> where the columns of each load stand in the sheet; null where its rows cannot be compared */
    private array $layouts = [];

    /**
     * @param  list<string>  $references  titles of the column with the reference, in every language
     * @param  list<string>  $added  titles of all columns that are added
     * @param  list<string>  $remarks  titles of the column with remarks
     */
    private function __construct(
        private readonly Answer $answer,
        private readonly AnswerNotes $notes,
        private readonly array $references,
        private readonly array $added,
        private readonly array $remarks,
    ) {
    }

    /** @return array<string, mixed> "asks", or what was found */
    public static function look(array $given): mixed
    {
        $answer = Answer::query()->findOrFail($given['answer']);

        $words = array_map(Words::of(...), array_keys(Words::languages()));
        $all = fn (string $key) => array_values(array_unique(array_map(fn (Words $w) => $w->say($key), $words)));
        $added = array_merge(...array_map(fn (Words $w) => $w->added(), $words));
        $reader = new self($answer, new AnswerNotes, $all('reference'), $added, $all('remark'));

        // Looking for circles among hundreds of thousands of short-lived rows costs more than it frees.
        gc_disable();
        try {
            return DB::transaction(fn () => $reader->read());
        } finally {
            gc_enable();
        }
    }

    /** @return array<string, mixed> */
    private function read(): array
    {
        DB::table('answer_changes')->where('answer_id', $this->answer->id)->delete();
        DB::table('row_remarks')->where('answer_id', $this->answer->id)->delete();
        foreach (Parts::of((string) $this->answer->path, $this->answer->name) as $part) {
            $this->part($part);
        }
        if ($this->file === null) {
            $titles = implode('" or "', $this->references);
            throw ReadingError::broken("No sheet of it has a column \"$titles\" with references written here. By it the rows are known: "
                .'send the file back with that column.');
        }
        $this->answer->update(['file_id' => $this->file->id]);
        if ($this->asks !== []) {
            $this->list?->forget();

            return ['asks' => array_values($this->asks)];
        }
        $this->list?->write();
        $counts = $this->list?->counts() ?? [];

        return ['found' => $counts + $this->notes->toArray() + ['deleted' => max(0, $this->file->row_count - $this->notes->rows)]];
    }

    private function part(Part $part): void
    {
        if ($part->settings === null) {
            $this->notes->others[] = $part->name;

            return;
        }
        $settings = new ReaderSettings($part->settings->format, new Layout(header: false), $part->settings->member);
        $table = (new TableOpener)->open($settings, (string) $this->answer->path);
        $table->columns();
        $head = $reference = null;
        $seen = 0;
        $rows = $this->layouts = [];
        foreach ($table->rows() as $row) {
            $cells = $row->cells;
            if ($head === null) {
                $cells = array_map(strval(...), $cells);
                $reference = self::at($cells, $this->references);
                $head = $reference === null ? null : self::readable($cells);
                if ($head === null && ++$seen >= self::HEAD) {
                    break;
                }

                continue;
            }
            $this->row($part->name, $head, (int) $reference, $row->line, $cells, $rows);
        }
        if ($head === null) {
            $this->notes->others[] = $part->name;

            return;
        }
        $this->flush($rows);
        foreach ($table->remarks() as $remark) {
            $this->notes->remark($part->name, $remark);
        }
    }

    /**
     * @param  list<string>  $head
     * @param  list<string|null>  $cells
     * @param  array<int, array<int, list<string|null>>>  $rows  load → row → cells, until there are enough
     */
    private function row(string $sheet, array $head, int $at, int $line, array $cells, array &$rows): void
    {
        $reference = Reference::of($cells[$at] ?? null);
        if ($reference === null) {
            implode('', $cells) === '' ?: $this->notes->unreferenced($sheet, $line, trim((string) ($cells[$at] ?? '')));

            return;
        }
        $this->file === null ? $this->is($reference) : null;
        if ($reference->file !== $this->code) {
            $this->notes->elsewhere($sheet, $line);

            return;
        }
        [$load, $number] = [$reference->load, $reference->row];
        if (! $this->notes->first($load, $number)) {
            $this->notes->twice($sheet, $line);

            return;
        }
        if (! array_key_exists($load, $this->layouts)) {
            $this->layouts[$load] = $this->layout($sheet, $head, $load);
        }
        // Nearly all rows say what they said, to the byte: nothing need be looked up for them.
        if ($this->layouts[$load]?->isAsWritten($cells, $reference->said) && $this->list?->has($load, $number)) {
            return;
        }
        $rows[$load][$number] = $cells;
        if (++$this->held >= max(50, min(self::AT_ONCE, intdiv(self::CELLS, count($head))))) {
            $this->flush($rows);
        }
    }

    /** The file of the first reference is the file it is. */
    private function is(Reference $reference): void
    {
        $file = ClientFile::query()->where('code', $reference->file)->first()
            ?? throw ReadingError::broken("A file with the code $reference->file was not written here, or is there no more.");
        if ($file->migration_id !== $this->answer->migration_id) {
            throw ReadingError::broken('It is a file of another migration: take it in there.');
        }
        if ($file->round_id !== $this->answer->round_id) {
            throw ReadingError::broken("It is a file of the round {$file->round->name}: look at that round, and take it in there.");
        }
        if ($file->round->hasEnded()) {
            throw ReadingError::broken("It is a file of the round {$file->round->name}, which has ended.");
        }
        [$this->file, $this->code] = [$file, $file->code];
        $this->list = new AnswerList($this->answer, $file, $this->notes);
    }

    /** @param  array<int, array<int, list<string|null>>>  $rows */
    private function flush(array &$rows): void
    {
        foreach ($rows as $load => $of) {
            $layout = $this->layouts[$load] ?? null;
            if ($layout !== null) {
                $this->list?->compare($load, $of, $layout);
            } elseif ($this->list?->take($load) === null) {
                $this->notes->unknown += count($of);
            }
        }
        $rows = [];
        $this->held = 0;
    }

    /** @param  list<string>  $head */
    private function layout(string $sheet, array $head, int $load): ?AnswerLayout
    {
        $take = $this->list?->take($load);
        if ($take === null) {
            return null;
        }
        $columns = AnswerColumns::of($take->headers(), $this->added, $head, $this->answer->columns_as[$sheet] ?? []);
        if ($columns->missing !== [] && $columns->unknown !== []) {
            $name = Load::query()->find($load)->name ?? '';
            $this->asks["$sheet~$name"] = [
                'sheet' => $sheet, 'load' => $name, 'missing' => $columns->missing, 'unknown' => $columns->unknown,
            ];

            return null;
        }
        $this->notes->columns($sheet, $columns);

        $remark = self::at(array_diff_key($head, array_flip($columns->own)), $this->remarks);

        return new AnswerLayout($columns->own, $columns->asTheyStood(), $remark);
    }

    /**
     * @param  list<string>  $head
     * @return list<string>
     *
     * @throws ReadingError where a program took the text for another encoding: every letter with a mark would look changed
     */
    private static function readable(array $head): array
    {
        return str_starts_with(implode('', $head), "\u{EF}\u{BB}\u{BF}")
            ? throw ReadingError::broken('The program it was saved with took its text for another encoding than UTF-8, so letters with '
                .'marks are not what they were. Open the file that went out as UTF-8, or use an .xlsx, and send that back.')
            : $head;
    }

    /**
     * The last column with one of some titles: the client's own, which may be called so too, stand before ours.
     *
     * @param  array<int, string>  $head
     * @param  list<string>  $titles
     */
    private static function at(array $head, array $titles): ?int
    {
        foreach (array_reverse($head, true) as $at => $cell) {
            if (in_array(trim($cell), $titles, true)) {
                return $at;
            }
        }

        return null;
    }
}
