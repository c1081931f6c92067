<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Support\Carbon;

/**
 * What came back from the client: a file, or what was answered on a page.
 *
 * @property int $id
 * @property int $migration_id
 * @property ?int $file_id the file it is one of, known once it was read
 * @property int $round_id it was taken in for
 * @property string $name of the file that came
 * @property ?string $path where it lies until it is read
 * @property ?string $sent_by
 * @property AnswerState $state
 * @property ?string $told why it was refused
 * @property ?array<string, mixed> $found rows, changes and what was odd
 * @property ?array<string, array<string, string>> $columns_as sheet → its header → the column it is
 * @property ?int $user_id who took it in
 * @property ?Carbon $created_at
 */
final class Answer extends Model
{
    protected $guarded = [];

    protected function casts(): array
    {
        return ['state' => AnswerState::class, 'found' => 'array', 'columns_as' => 'array'];
    }

    /** @return BelongsTo<ClientFile, $this> */
    public function file(): BelongsTo
    {
        return $this->belongsTo(ClientFile::class, 'file_id');
    }

    /** @return BelongsTo<Round, $this> */
    public function round(): BelongsTo
    {
        return $this->belongsTo(Round::class);
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }

    /** @return BelongsTo<Migration, $this> */
    public function migration(): BelongsTo
    {
        return $this->belongsTo(Migration::class);
    }
}
