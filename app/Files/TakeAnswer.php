<?php

namespace App\Files;

use App\Looking\Looks;
use App\Models\Answer;
use App\Models\AnswerState;
use App\Models\Audit;
use App\Models\Work;
use App\Queueing\Kind;
use App\Queueing\WorkJob;
use App\Support\Amount;
use App\Support\ApartEnded;
use App\Support\Bounds;
use App\Support\Unforeseen;

/** Has a file read that came back. One whose worker was killed is read anew: nothing is kept of what was not read to its end. */
final class TakeAnswer extends WorkJob
{
    public function kind(): Kind
    {
        return Kind::Rows;
    }

    protected function done(Work $work): array
    {
        $answer = Answer::query()->findOrFail($work->given['of']);
        try {
            $is = self::read($answer);
        } catch (\Throwable $e) {
            $answer->update(['state' => AnswerState::Refused, 'told' => Unforeseen::said('Reading it broke off', $e)]);
            throw $e;
        }
        if (isset($is['refused'])) {
            $answer->update(['state' => AnswerState::Refused, 'told' => $is['refused']]);
            throw new \DomainException("$answer->name: $is[refused]");
        }
        if (isset($is['asks'])) {
            $answer->refresh()->update(['state' => AnswerState::Asking, 'found' => $is]);

            return ['told' => "$answer->name: some columns are called otherwise than they were. Say which is which."];
        }
        $found = $is['found'];
        $answer->refresh()->update(['state' => AnswerState::Listed, 'found' => $found]);
        Audit::note($answer->migration_id, 'took in a file that came back', ['file' => $answer->name, 'by' => $answer->sent_by]);

        return ['told' => "$answer->name: ".Amount::of($found['rows'], 'row').' read, '.Amount::of($found['change'], 'cell').' changed'
            .($found['conflict'] > 0 ? ', '.Amount::of($found['conflict'], 'cell').' in conflict' : '').'.'];
    }

    protected function brokeOff(Work $work): string
    {
        return 'Reading the file ended';
    }

    /** @return array<string, mixed> refused, asks or found */
    public static function read(Answer $answer): array
    {
        if ($answer->path === null) {
            return PageAnswers::listed($answer);
        }
        $given = ['answer' => $answer->id];
        try {
            $is = config('baggage.apart.on')
                ? Looks::apart(AnswerReader::class, $given, Bounds::of('answer'))
                : Looks::done(AnswerReader::class, $given);
        } catch (ApartEnded $e) {
            return ['refused' => $e->getMessage()];
        }

        return isset($is['refused']) ? ['refused' => (string) $is['refused']] : (array) $is['is'];
    }
}
