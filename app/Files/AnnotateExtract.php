<?php

namespace App\Files;

use App\Looking\Looks;
use App\Models\Audit;
use App\Models\Round;
use App\Models\Take;
use App\Models\Work;
use App\Queueing\Kind;
use App\Queueing\WorkJob;
use App\Rejects\RowsFile;
use App\Support\ApartEnded;
use App\Support\Bounds;

/** Makes a copy of the client's own file with what became of each row, for whoever asked. It is kept for a day. */
final class AnnotateExtract extends WorkJob
{
    public function kind(): Kind
    {
        return Kind::Rows;
    }

    protected function done(Work $work): array
    {
        $round = Round::query()->where('migration_id', $work->migration_id)->findOrFail($work->given['round']);
        $take = Take::query()->findOrFail($work->given['take']);
        $extension = Annotator::extension($take);
        self::make($round, $take, RowsFile::place($work, $extension));
        Audit::note($work->migration_id, 'made a copy of a file with what became of its rows', ['file' => $take->file_name]);
        $name = pathinfo($take->file_name, PATHINFO_FILENAME)."-$round->name.$extension";

        return ['told' => "$take->file_name: a copy with what became of each row.", 'file' => $name];
    }

    protected function brokeOff(Work $work): string
    {
        return 'Making the copy ended';
    }

    /** @throws \DomainException */
    public static function make(Round $round, Take $take, string $to): void
    {
        $given = ['take' => $take->id, 'round' => $round->id, 'to' => $to];
        try {
            $is = config('baggage.apart.on')
                ? Looks::apart(Annotator::class, $given, Bounds::of('answer'))
                : Looks::done(Annotator::class, $given);
        } catch (ApartEnded $e) {
            throw new \DomainException($e->getMessage());
        }
        if (isset($is['refused'])) {
            @unlink($to);
            throw new \DomainException((string) $is['refused']);
        }
    }
}
