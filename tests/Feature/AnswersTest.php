<?php

namespace Tests\Feature;

use App\Files\FileBook;
use App\Models\Answer;
use App\Models\AnswerState;
use App\Models\ClientFile;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Repair;
use App\Models\Role;
use App\Models\Round;
use App\Staging\StagedRows;
use Illuminate\Http\UploadedFile;
use Illuminate\Support\Facades\DB;
use Illuminate\Testing\TestResponse;
use Symfony\Component\HttpFoundation\BinaryFileResponse;
use Symfony\Component\Process\Process;
use Tests\TestCase;

/** Rejects go to the client as a file and come back changed: only what was changed is taken in, to the cell. */
final class AnswersTest extends TestCase
{
    private Migration $migration;

    private Round $round;

    private Load $vessels;

    private string $m;

    protected function setUp(): void
    {
        parent::setUp();
        [$this->migration, $this->round] = $this->loadedDemo(self::smallDemo());
        $this->vessels = Load::query()->where('name', 'Vessels')->firstOrFail();
        $this->m = "/m/{$this->migration->id}";
        $this->actingAs($this->user(Role::Lead));
    }

    /** @param  array<string, mixed>  $of */
    private function written(array $of): ClientFile
    {
        $this->post("$this->m/rejects/files", $of)->assertSessionMissing('refused')->assertRedirect();

        return ClientFile::query()->latest('id')->firstOrFail();
    }

    /** @return list<list<string>> */
    private function of(ClientFile $file): array
    {
        $answer = $this->get("$this->m/rejects/files/$file->id/fetch")->assertOk()->baseResponse;
        assert($answer instanceof BinaryFileResponse);
        $text = (string) file_get_contents($answer->getFile()->getPathname());
        self::assertStringStartsWith("\u{FEFF}", $text);

        return array_map(fn (string $line) => str_getcsv($line, escape: ''), explode("\r\n", trim(substr($text, 3), "\r\n")));
    }

    /**
     * @param  list<list<string>>  $lines
     * @return TestResponse<\Symfony\Component\HttpFoundation\Response>
     */
    private function sent(array $lines, string $name = 'back.csv', ?Round $round = null): TestResponse
    {
        $text = '';
        foreach ($lines as $line) {
            $text .= implode(';', array_map(fn (string $c) => '"'.str_replace('"', '""', $c).'"', $line))."\n";
        }

        // As many programs save it: without an end of the last line.
        $text = rtrim($text, "\n");

        return $this->post("$this->m/rejects/answers", [
            'answer' => UploadedFile::fake()->createWithContent($name, $text), 'sent_by' => 'Ines Moor',
            'round' => $round->id ?? $this->round->id,
        ]);
    }

    private function answer(): Answer
    {
        return Answer::query()->latest('id')->firstOrFail();
    }

    /** @return array<string, int> */
    private function counted(): array
    {
        return DB::table('answer_changes')->where('answer_id', $this->answer()->id)->groupBy('kind')->selectRaw('kind, COUNT(*) AS n')
            ->pluck('n', 'kind')->map(fn ($n) => (int) $n)->all();
    }

    private function cell(int $row, string $header): ?string
    {
        $take = $this->vessels->extract->take ?? self::fail();
        $at = $take->tidyColumns()->find($header)->position ?? self::fail();

        return (new StagedRows($take->id))->numbered([$row])[$row][$at] ?? null;
    }

    public function test_only_what_was_changed_comes_back(): void
    {
        $file = $this->written(['format' => 'csv', 'of' => $this->vessels->id, 'to_whom' => 'Ines Moor']);
        [$head, $rows] = [($lines = $this->of($file))[0], array_slice($lines, 1)];
        $rejected = $this->numbers('Vessels', 'rejected');
        self::assertCount(count($rejected), $rows);
        self::assertSame($this->vessels->extract->take?->headers(), array_slice($head, 0, -7));
        self::assertSame(['Row', 'Stage', 'Field', 'Value', 'What is wrong', 'Remark', 'Reference'], array_slice($head, -7));
        $at = array_flip($head);
        self::assertEqualsCanonicalizing($rejected, array_map(fn (array $r) => (int) $r[$at['Row']], $rows));

        // Back in another order, with a row less, one more, a note above, another delimiter, and what programs do to cells.
        $built = array_values(array_filter($rows, fn (array $r) => str_contains($r[$at['What is wrong']], 'Not a date')));
        self::assertGreaterThanOrEqual(2, count($built));
        [$one, $two] = [(int) $built[0][$at['Row']], (int) $built[1][$at['Row']]];
        $gone = array_pop($rows);
        foreach ($rows as &$row) {
            $row[$at['BUILT']] = (int) $row[$at['Row']] === $one ? '01/02/1999' : $row[$at['BUILT']];
            $row[$at['Remark']] = (int) $row[$at['Row']] === $one ? 'as in the builder\'s plate' : '';
            $row[$at['DRAUGHT']] = str_replace(',', '.', $row[$at['DRAUGHT']]);
        }
        unset($row);
        $added = array_replace(array_fill(0, count($head), ''), ['V-999']);
        $this->sent([['Sent by the harbour'], [], $head, ...array_reverse($rows), $added])->assertSessionMissing('refused');
        $answer = $this->answer();
        self::assertSame(AnswerState::Listed, $answer->state, (string) $answer->told);
        self::assertSame(1, $this->counted()['change']);
        self::assertSame([1, 1, 1], [$answer->found['places']['added'][0], $answer->found['remarks'], $answer->found['deleted']]);
        self::assertGreaterThan(1, $answer->found['program']);
        $page = $this->get("$this->m/rejects/answers/$answer->id")->assertOk();
        $page->assertReads('1 cell changed')->assertReads('01/02/1999')->assertReads('belong in the next delivery');
        $this->fromOlderVersion($head, $rows, $at['Reference'], $answer);
        $this->takenIn($answer, $one, $built[0][$at['BUILT']]);
        self::assertSame($built[1][$at['BUILT']], $this->cell($two, 'BUILT'));
        self::assertNotSame([], $gone);
    }

    /**
     * Files an older version wrote say nothing of their cells in the reference, and are looked up whole.
     *
     * @param  list<string>  $head
     * @param  list<list<string>>  $rows
     */
    private function fromOlderVersion(array $head, array $rows, int $at, Answer $answer): void
    {
        $older = array_map(fn (array $r) => array_replace($r, [$at => substr($r[$at], 0, -12)]), $rows);
        $found = array_intersect_key($answer->found, array_flip(['change', 'program', 'rows', 'remarks', 'deleted']));
        $this->sent([$head, ...$older])->assertSessionMissing('refused');
        self::assertSame($found, array_intersect_key($this->answer()->found, $found));
        self::assertSame(1, $this->counted()['change']);
    }

    /** Tried, taken in, and in the list of repairs with whoever answered; then taken back. */
    private function takenIn(Answer $answer, int $one, string $was): void
    {
        $this->post("$this->m/rejects/answers/$answer->id/try", ['load' => $this->vessels->id])->assertRedirect();
        $run = $this->migration->dryRuns()->latest('id')->firstOrFail();
        $this->get("$this->m/dry-runs/$run->id")->assertOk()->assertReads('Take them in');
        $this->post("$this->m/dry-runs/$run->id/keep")->assertSessionHas('told', '1 cell corrected as answered.');
        self::assertSame('01/02/1999', $this->cell($one, 'BUILT'));
        $this->get("$this->m/rejects?show=repairs")->assertReads('answered by Ines Moor, back.csv');
        $this->get("$this->m/rows/{$this->vessels->id}/$one")->assertReads("as in the builder's plate");
        $repair = Repair::query()->latest('id')->firstOrFail();
        $this->post("$this->m/rejects/repairs/$repair->id/undo")->assertSessionHas('told');
        self::assertSame($was, $this->cell($one, 'BUILT'));
        self::assertSame('open', DB::table('answer_changes')->where('answer_id', $answer->id)->where('kind', 'change')->value('state'));
    }

    /** @return list<int> */
    private function numbers(string $load, string $outcome): array
    {
        return array_map(intval(...), $this->lines()->where('load_id', Load::query()->where('name', $load)->value('id'))
            ->where('outcome', $outcome)->pluck('row_no')->all());
    }

    /** The client's own columns may be called as ours are: theirs stand first. */
    public function test_own_columns_that_are_called_as_ours(): void
    {
        $csv = "no,Reference,Remark,Row,what\nK1,R-1,old remark,1,ghost\nK2,R-2,another,2,ghost\n";
        $this->migration = $this->demoMigration(dirname($this->smallPlan($csv, "{kind: what, name: remark, country: \"'GB'\"}", 'party')));
        $this->round = $this->load($this->migration);
        $this->m = "/m/{$this->migration->id}";
        $this->user(Role::Lead);
        $lines = $this->of($this->written(['format' => 'csv']));
        $this->sent($lines)->assertSessionMissing('refused');
        self::assertSame([2, 0, 0], [$this->answer()->found['rows'], $this->answer()->found['remarks'], $this->answer()->found['change']]);
        $at = array_key_last($lines[0]);
        [$lines[1][1], $lines[1][$at - 1]] = ['R-9', 'ask her'];
        $this->sent($lines)->assertSessionMissing('refused');
        self::assertSame(['change' => 1], $this->counted());
        self::assertSame(['ask her'], DB::table('row_remarks')->pluck('remark')->all());
    }

    public function test_rows_in_another_open_file_are_told(): void
    {
        $first = $this->written(['format' => 'xlsx', 'alike' => "{$this->vessels->id}~mapping~not_a_date~built"]);
        self::assertSame(0, $first->elsewhere);
        $all = $this->written(['format' => 'xlsx']);
        self::assertSame([$first->row_count, $first->row_count], [$all->elsewhere, FileBook::others($first)[$all->id][1]]);
        $this->get("$this->m/rejects/files/$all->id")->assertOk()->assertReads('in another open file too')->assertReads($first->title);
        // Forms send what was left blank.
        $this->post("$this->m/rejects/files/$first->id", ['to_whom' => '', 'sent_on' => ''])->assertSessionHas('told');
        $this->post("$this->m/rejects/files/$first->id", ['to_whom' => 'Ines Moor', 'sent_on' => '2031-01-02'])->assertSessionHas('told');
        $this->get("$this->m/rejects?show=files")->assertReads('Ines Moor')->assertReads('2031-01-02');
        $this->post("$this->m/rejects/files/$first->id", ['close' => 1])->assertSessionHas('told');
        self::assertSame([], FileBook::others($all));
        self::assertFalse($first->refresh()->isWritten());
        $this->get("$this->m/rejects/files/$first->id")->assertReads('It is closed');
        $this->get("$this->m/rejects/files/$first->id/fetch")->assertNotFound();
    }

    public function test_a_cell_that_was_corrected_here_meanwhile_is_a_conflict(): void
    {
        $file = $this->written(['format' => 'csv', 'of' => $this->vessels->id]);
        $lines = $this->of($file);
        $at = array_flip($lines[0]);
        $bad = array_values(array_filter($lines, fn (array $r) => str_contains($r[$at['What is wrong']], 'Not a date')));
        $rows = array_map(fn (array $r) => (int) $r[$at['Row']], $bad);
        $to = "$this->m/rejects/loads/{$this->vessels->id}";
        $this->repaired($to, 'correct', ['row' => $rows[0], 'header' => 'BUILT', 'new' => '05/05/2005', 'reason' => 'ours']);
        $this->repaired($to, 'correct', ['row' => $rows[1], 'header' => 'BUILT', 'new' => '06/06/2006', 'reason' => 'ours']);
        foreach ([0 => '01/01/2001', 1 => '06/06/2006', 2 => '03/03/2003'] as $i => $theirs) {
            $bad[$i][$at['BUILT']] = $theirs;
        }
        $this->sent([$lines[0], ...$bad])->assertSessionMissing('refused');
        $answer = $this->answer();
        self::assertSame(['change' => 1, 'conflict' => 1], $this->counted());
        self::assertSame(1, $answer->found['already']);
        $this->get("$this->m/rejects/answers/$answer->id")->assertReads('corrected here otherwise')->assertReads('05/05/2005')
            ->assertReads('01/01/2001');

        // Corrected here between the list and the taking in: it becomes a conflict, and nothing is overwritten.
        $this->post("$this->m/rejects/answers/$answer->id/try", ['load' => $this->vessels->id])->assertRedirect();
        $run = $this->migration->dryRuns()->latest('id')->firstOrFail();
        $this->repaired($to, 'correct', ['row' => $rows[2], 'header' => 'BUILT', 'new' => '07/07/2007', 'reason' => 'ours']);
        $this->post("$this->m/dry-runs/$run->id/keep")->assertSessionHas('refused', fn (string $why) => str_contains($why, 'look at both'));
        self::assertSame('07/07/2007', $this->cell($rows[2], 'BUILT'));

        // Decided: theirs for one, ours for the other.
        $conflicts = DB::table('answer_changes')->where('answer_id', $answer->id)->pluck('id', 'row_no')->all();
        $both = [$conflicts[$rows[0]], $conflicts[$rows[2]]];
        $this->post("$this->m/rejects/answers/$answer->id/try", ['load' => $this->vessels->id, 'changes' => $both]);
        $run = $this->migration->dryRuns()->latest('id')->firstOrFail();
        // And once more between the trial and the taking in.
        $this->repaired($to, 'correct', ['row' => $rows[2], 'header' => 'BUILT', 'new' => '08/08/2008', 'reason' => 'ours']);
        $this->post("$this->m/dry-runs/$run->id/keep")
            ->assertSessionHas('told', '1 cell corrected as answered. 1 other says something else by now: look at both.');
        $this->post("$this->m/rejects/answers/$answer->id/leave", ['changes' => $both])
            ->assertSessionHas('told', '1 cell stays as it is.');
        self::assertSame(['01/01/2001', '08/08/2008'], [$this->cell($rows[0], 'BUILT'), $this->cell($rows[2], 'BUILT')]);
    }

    public function test_what_cannot_be_taken_in_is_refused_in_words(): void
    {
        $file = $this->written(['format' => 'csv', 'of' => $this->vessels->id]);
        $lines = $this->of($file);
        $head = $lines[0];
        $at = array_flip($head);
        $this->sent([array_slice($head, 0, -1), array_slice($lines[1], 0, -1)])
            ->assertSessionHas('refused', fn (string $why) => str_contains($why, 'has a column "Reference"'));
        $this->sent([array_replace($head, [0 => "\u{EF}\u{BB}\u{BF}$head[0]"]), ...array_slice($lines, 1)])
            ->assertSessionHas('refused', fn (string $why) => str_contains($why, 'another encoding'));
        $this->sent([$head, array_replace($lines[1], [$at['Reference'] => 'ZZZZZZ-1-1-0000'])])
            ->assertSessionHas('refused');
        $other = $this->load($this->migration, 'rehearsal-2');
        $this->sent($lines, round: $other)
            ->assertSessionHas('refused', fn (string $why) => str_contains($why, 'It is a file of the round'));

        // Columns called otherwise are matched after asking; one that is not there changes nothing.
        $lines[0][$at['BUILT']] = 'Built in';
        $isWrong = array_map(fn (array $r) => str_contains($r[$at['What is wrong']], 'Not a date'), $lines);
        $row = (int) array_search(true, $isWrong, true);
        $lines[$row][$at['BUILT']] = '01/01/2001';
        $this->sent($lines)->assertSessionMissing('refused');
        $answer = $this->answer();
        self::assertSame(AnswerState::Asking, $answer->state);
        $this->get("$this->m/rejects/answers/$answer->id")->assertOk()->assertReads('Built in')->assertReads('Which columns are these?');
        $this->post("$this->m/rejects/answers/$answer->id/columns", ['is' => [['BUILT']]])->assertSessionHasNoErrors();
        self::assertSame([AnswerState::Listed, ['change' => 1]], [$answer->refresh()->state, $this->counted()]);
        // Keys moved, references not: told before anything is taken in.
        $sorted = $this->of($file);
        $moved = array_column($sorted, 0);
        foreach ($sorted as $i => $cells) {
            $sorted[$i][0] = $i === 0 ? $cells[0] : $moved[count($moved) - $i];
        }
        $this->sent($sorted)->assertSessionMissing('refused');
        $this->get("$this->m/rejects/answers/{$this->answer()->id}")->assertReads('sorted apart from each other');
        $without = array_map(fn (array $r) => array_values(array_diff_key($r, [$at['BUILT'] => 0])), $this->of($file));
        $this->sent($without)->assertSessionMissing('refused');
        self::assertSame([], $this->counted());
        self::assertSame(['BUILT'], array_values($this->answer()->found['missing'])[0]);
    }

    /** @return array<string, mixed> the workbook as openpyxl reads it */
    private function read(string $path): array
    {
        $process = new Process(['/usr/bin/python3', __DIR__.'/../Support/answer.py', 'read', $path]);

        return json_decode($process->mustRun()->getOutput(), true);
    }

    /** @param  list<list<string>>  $deeds */
    private function edited(string $path, array $deeds): string
    {
        is_dir($folder = self::work('answers')) || mkdir($folder);
        $to = "$folder/edited.xlsx";
        (new Process([
            '/usr/bin/python3', __DIR__.'/../Support/answer.py', 'edit', $path, $to, ...array_map(fn (array $d) => json_encode($d), $deeds),
        ]))->mustRun();

        return $to;
    }

    /** @return TestResponse<\Symfony\Component\HttpFoundation\Response> */
    private function back(string $path): TestResponse
    {
        copy($path, $copy = "$path.sent");

        return $this->post("$this->m/rejects/answers", [
            'answer' => new UploadedFile($copy, 'back.xlsx', null, null, true), 'round' => $this->round->id,
        ]);
    }

    /** Read and edited by openpyxl, which is no part of this project. */
    public function test_a_workbook_goes_out_and_comes_back(): void
    {
        $file = $this->written(['format' => 'xlsx']);
        $seen = $this->read($file->path());
        $loads = $this->lines()->where('outcome', 'rejected')->distinct()->pluck('load_id');
        self::assertCount($loads->count() + 2, $seen);
        self::assertSame(['Codes', 'About this file'], array_slice(array_keys($seen), -2));
        $rows = 0;
        foreach (array_slice($seen, 0, -2) as $name => $sheet) {
            // Texts alone: nothing is run as a formula, nothing loses its zeros.
            self::assertSame([['s'], ['@'], 'A2'], [$sheet['kinds'], $sheet['formats'], $sheet['frozen']], $name);
            $rows += count($sheet['rows']) - 1;
        }
        self::assertSame(DB::table('tallies')->where('outcome', 'rejected')->sum('n'), (string) $rows);
        $vessels = $seen['Vessels'];
        $at = array_flip($vessels['rows'][0]);
        $cells = array_map(fn (array $r) => array_slice($r, 0, 11), array_slice($vessels['rows'], 1));
        $take = (int) $this->vessels->extract->take_id;
        foreach (array_slice($vessels['rows'], 1) as $i => $row) {
            $staged = (new StagedRows($take))->numbered([(int) $row[$at['Row']]])[(int) $row[$at['Row']]];
            self::assertSame(array_map(strval(...), $staged), array_map(strval(...), $cells[$i]));
        }
        $this->offered($vessels['choices'], $seen['Codes']['rows']);
        $this->editedAndBack($file, array_slice($vessels['rows'], 1), $at);
    }

    /**
     * Cells that want a code offer the old values that have one.
     *
     * @param  list<array{string, string}>  $choices
     * @param  list<list<string>>  $codes
     */
    private function offered(array $choices, array $codes): void
    {
        self::assertCount(1, $choices);
        [$where, $from] = $choices[0];
        self::assertMatchesRegularExpression('/^E\d+(?::E\d+)?(?: E\d+(?::E\d+)?)*$/', $where);
        self::assertSame(1, preg_match("/^'Codes'!\\\$B\\\$(\d+):\\\$B\\\$(\d+)$/", $from, $m));
        $offered = array_column(array_slice($codes, (int) $m[1] - 1, (int) $m[2] - (int) $m[1] + 1), 1);
        self::assertSame(
            DB::table('code_entries as e')->join('code_crosswalks as c', 'c.id', '=', 'e.code_crosswalk_id')
                ->where('c.name', 'vessel types')->where('e.decision', 'value')->orderBy('e.old_value')->pluck('e.old_value')->all(),
            $offered,
        );
    }

    /**
     * @param  list<list<string|null>>  $rows
     * @param  array<string, int>  $at
     */
    private function editedAndBack(ClientFile $file, array $rows, array $at): void
    {
        [$one, $two] = array_column($rows, $at['Reference']);
        $three = array_column(array_filter($rows, fn (array $r) => (string) $r[$at['REG_NO']] !== ''), $at['Reference'])[2];
        $deeds = [
            ['first'], ['sort', 'Vessels'], ['hide', 'Vessels'], ['blank', 'Vessels', '3000'],
            ['set', 'Vessels', $one, 'CRAFT_NAME', '=1+1 is no sum', 'text'],
            ['set', 'Vessels', $two, 'OWNER_NO', (string) (float) $rows[1][$at['OWNER_NO']], 'number'],
            ['set', 'Vessels', $three, 'REG_NO', '', 'text'],
            ['set', 'Vessels', $three, 'Remark', 'sold in May', 'text'],
        ];
        $this->back($this->edited($file->path(), array_slice($deeds, 0, -4)))->assertSessionMissing('refused');
        self::assertSame([], $this->counted());
        $deeds[4][4] = 'Grey Heron';
        $this->back($this->edited($file->path(), $deeds))->assertSessionMissing('refused');
        $answer = $this->answer();
        self::assertSame(AnswerState::Listed, $answer->state, (string) $answer->told);
        self::assertSame(2, $this->counted()['change']);
        self::assertSame([1, ['Our notes', 'Codes', 'About this file']], [$answer->found['remarks'], $answer->found['others']]);
        $becomes = DB::table('answer_changes')->where('answer_id', $answer->id)->where('kind', 'change')->orderBy('position');
        self::assertSame(['Grey Heron', ''], $becomes->pluck('becomes')->all());
        $this->bad($file, $one);
    }

    private function bad(ClientFile $file, string $one): void
    {
        foreach ([
            [[['merge', 'Vessels']], 'are merged'],
            [[['set', 'Vessels', $one, 'CRAFT_NAME', '=A1&A2', 'text']], 'formulas without their results'],
            [[['column', 'Vessels', 'Reference']], null],
        ] as [$deeds, $why]) {
            $this->back($this->edited($file->path(), $deeds));
            $why === null ?: self::assertStringContainsString($why, (string) $this->answer()->told);
        }
        self::assertSame(['Vessels'], array_values(array_intersect($this->answer()->found['others'], ['Vessels'])));
        file_put_contents($cut = self::work('answers').'/cut.xlsx', substr((string) file_get_contents($file->path()), 0, -400));
        $this->back($cut)->assertSessionHas('refused');
    }
}
