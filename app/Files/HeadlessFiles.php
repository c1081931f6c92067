<?php

namespace App\Files;

use App\Decisions\AnswerChanges;
use App\DryRuns\WorkOnDryRun;
use App\Models\Answer;
use App\Models\AnswerState;
use App\Models\ClientFile;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Round;
use App\Models\Work;
use App\Plans\Headless;
use App\Rejects\Proposals;
use App\Rejects\Proposed;
use App\Rejects\ProposedKind;

/** Files for the client and their answers, without screens. */
final readonly class HeadlessFiles
{
    public function __construct(private Headless $headless, private Proposals $proposals)
    {
    }

    /** @throws \DomainException */
    public function round(string $plan, string $name, ?int $migration): Round
    {
        $is = $this->headless->read($plan)->plan['migration'];

        return Migration::named($is, $migration)?->rounds()->where('name', $name)->first()
            ?? throw new \DomainException("The migration \"$is\" has no round \"$name\" here. Run the plan first.");
    }

    /**
     * @param  string|null  $load  name of the only one whose rows are written
     * @return array<string, mixed>
     *
     * @throws \DomainException
     */
    public function write(Round $round, ?string $load, string $out): array
    {
        $format = strtolower(pathinfo($out, PATHINFO_EXTENSION));
        if (! in_array($format, ['xlsx', 'csv'], true)) {
            throw new \DomainException("A file for the client ends in .xlsx or .csv, not in \"$format\".");
        }
        $loads = Load::query()->where('migration_id', $round->migration_id)->when($load !== null, fn ($q) => $q->where('name', $load))
            ->orderBy('position')->get();
        if ($loads->isEmpty()) {
            throw new \DomainException("The plan has no load named \"$load\".");
        }
        $title = FileBook::title(array_values($loads->all()), null, null);
        $file = FileBook::begin($round, $loads->map(fn (Load $l) => $l->id)->values()->all(), null, $format, $title);
        $rows = WriteFile::write($file);
        if (! @copy($file->path(), $out)) {
            throw new \DomainException("The file cannot be written to $out.");
        }

        return ['baggage' => 1, 'file' => $file->code, 'rows' => $rows, 'in_other_open_files' => $file->refresh()->elsewhere,
            'loads' => $loads->whereIn('id', $file->loads)->pluck('name')->values()->all()];
    }

    /**
     * Takes in a file that came back.
     *
     * @param  bool  $accept  whether all that is changed and no conflict becomes corrections
     * @return array<string, mixed>
     *
     * @throws \DomainException
     */
    public function answers(Round $round, string $path, ?string $from, bool $accept): array
    {
        if (! is_file($path) || ! is_readable($path)) {
            throw new \DomainException("There is no file $path, or it may not be read.");
        }
        $copy = (string) tempnam(sys_get_temp_dir(), 'baggage');
        copy($path, $copy);
        $answer = AnswerBook::begin($round, $copy, basename($path), $from);
        $is = TakeAnswer::read($answer);
        if (isset($is['refused'])) {
            $answer->update(['state' => AnswerState::Refused, 'told' => $is['refused']]);
            throw new \DomainException((string) $is['refused']);
        }
        if (isset($is['asks'])) {
            $answer->refresh()->update(['state' => AnswerState::Asking, 'found' => $is]);
            $titles = array_merge(...array_map(fn (array $of) => $of['unknown'], $is['asks']));
            throw new \DomainException('Some columns are called otherwise than they were ('.implode(', ', $titles)
                .'). Say on the screen which is which.');
        }
        $answer->refresh()->update(['state' => AnswerState::Listed, 'found' => $is['found']]);

        return ['baggage' => 1, 'file' => ClientFile::query()->find($answer->file_id)?->code, 'found' => $is['found'],
            'taken_in' => $accept ? $this->accept($round, $answer) : []];
    }

    /** @return list<array{load: string, cells: int, rows: int, dry_run: array<string, mixed>, told: string}> */
    private function accept(Round $round, Answer $answer): array
    {
        $taken = [];
        foreach ($round->roundLoads()->with('ofLoad')->get() as $of) {
            [$cells, $rows] = (new AnswerChanges($answer->id, $of->load_id))->open();
            if ($cells === 0) {
                continue;
            }
            $run = self::with('null', fn () => $this->proposals->try($round, new Proposed(
                ProposedKind::Answers, $of->load_id, rows: $rows, reason: trim("answered by $answer->sent_by, $answer->name"),
                answer: $answer->id,
            )));
            (new WorkOnDryRun($run->id))->handle();
            $told = self::with('sync', fn () => $this->proposals->keep($round, $run->refresh()));
            $taken[] = ['load' => $of->ofLoad->name, 'cells' => $cells, 'rows' => $rows, 'dry_run' => $run->found['rows'] ?? [],
                'told' => $told instanceof Work ? (string) $told->refresh()->told : $told];
        }

        return $taken;
    }

    /**
     * @template T
     *
     * @param  \Closure(): T  $do
     * @return T with the jobs it asks for in this queue
     */
    private static function with(string $queue, \Closure $do): mixed
    {
        $is = config('queue.default');
        config(['queue.default' => $queue]);
        try {
            return $do();
        } finally {
            config(['queue.default' => $is]);
        }
    }

    /**
     * @param  string  $extract  source and name, as S/E
     * @return array<string, mixed>
     *
     * @throws \DomainException
     */
    public function annotate(Round $round, string $extract, string $out): array
    {
        [$source, $name] = array_pad(explode('/', $extract, 2), 2, '');
        $of = $round->roundLoads()->with('take.extract.source')->get()
            ->first(fn ($of) => $of->take->extract?->name === $name && $of->take->extract->source?->code === $source)
            ?? throw new \DomainException("No load of the round reads an extract $extract.");
        AnnotateExtract::make($round, $of->take, $out);

        return ['baggage' => 1, 'extract' => $extract, 'take' => $of->take->number, 'file' => $out];
    }
}
