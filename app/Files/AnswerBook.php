<?php

namespace App\Files;

use App\Models\Answer;
use App\Models\AnswerState;
use App\Models\Migration;
use App\Models\Round;
use App\Models\Work;
use App\Models\WorkKind;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Str;

/** Takes in what came back from the client. */
final class AnswerBook
{
    /** Bytes of a file that is read while a page waits. */
    private const AT_ONCE = 300_000;

    /** @param  string  $from  path of the file; it is moved where it may stay */
    public static function begin(Round $round, string $from, string $name, ?string $by): Answer
    {
        $path = config('baggage.vault').'/answers/'.Str::uuid().'.data';
        is_dir(dirname($path)) || mkdir(dirname($path), 0700, true);
        rename($from, $path) ?: throw new \RuntimeException('The file cannot be kept: is the disk full?');
        chmod($path, 0600);

        return Answer::query()->create([
            'migration_id' => $round->migration_id,
            'round_id' => $round->id,
            'name' => mb_substr($name, 0, 255),
            'path' => $path,
            'sent_by' => $by === null || trim($by) === '' ? null : mb_substr(trim($by), 0, 190),
            'state' => AnswerState::Waiting,
            'user_id' => Auth::id(),
        ]);
    }

    /** Has it read: at once where it is short, else by a worker. */
    public static function read(Answer $answer): Work
    {
        $migration = Migration::query()->findOrFail($answer->migration_id);
        $work = Work::ask($migration, WorkKind::Answer, "Reading $answer->name", ['of' => $answer->id], 0);
        (int) @filesize((string) $answer->path) <= self::AT_ONCE
            ? TakeAnswer::dispatchSync($work->id)
            : TakeAnswer::dispatch($work->id);

        return $work->refresh();
    }

    /** Removes files nobody knows any more. */
    public static function sweep(): void
    {
        foreach (glob(config('baggage.vault').'/answers/*.data') ?: [] as $path) {
            $isOld = (int) @filemtime($path) < now()->subHour()->timestamp;
            $isOld && ! Answer::query()->where('path', $path)->exists() ? @unlink($path) : null;
        }
    }
}
