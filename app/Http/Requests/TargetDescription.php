<?php

namespace App\Http\Requests;

use App\Looking\Aside;
use App\Looking\LookGoing;
use App\Models\Connection;
use App\Models\Migration;
use App\Targets\OtherSchemas;
use App\Targets\TableMaker;
use Baggage\Core\Reading\Database\Driver;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Targets\Schema;
use Illuminate\Foundation\Http\FormRequest;

/** A description of the target from a file, a PostgreSQL database or the shape of an extract. */
final class TargetDescription extends FormRequest
{
    public function authorize(): bool
    {
        return $this->user()?->can('work', $this->route('migration')) ?? false;
    }

    /** @return array<string, mixed> */
    public function rules(): array
    {
        return [
            'from' => 'required|in:file,pgsql,extract',
            'file' => ['exclude_unless:from,file', 'required_without:'.Aside::AGAIN, 'file', 'max:20480'],
            Aside::AGAIN => 'nullable|uuid',
            'host' => 'required_if:from,pgsql|nullable|string',
            'port' => 'nullable|digits_between:1,5',
            'database' => 'required_if:from,pgsql|nullable|string',
            'username' => 'nullable|string',
            'password' => 'nullable|string',
            'extract' => 'required_if:from,extract|nullable|integer',
            'name' => ['required_if:from,extract', 'nullable', 'regex:/^[a-z][a-z0-9_]{0,59}$/'],
        ];
    }

    /**
     * @return array{Schema, string} what it describes, and what it is called
     *
     * @throws ReadingError|LookGoing
     */
    public function ofFile(): array
    {
        $file = Aside::of($this, 'file');

        return [OtherSchemas::apart(['path' => $file->path, 'name' => $file->name]), $file->name];
    }

    /**
     * @return array{Schema, string}
     *
     * @throws ReadingError|LookGoing
     */
    public function ofDatabase(): array
    {
        $connection = new Connection([
            'name' => 'target',
            'driver' => Driver::Pgsql,
            'host' => $this->validated('host'),
            'port' => $this->validated('port') ?? '5432',
            'database' => $this->validated('database'),
            'username' => $this->validated('username') ?? '',
            'password' => $this->validated('password') ?? '',
        ]);

        return [OtherSchemas::apart(['connection' => $connection->getAttributes()]), "the database $connection->database"];
    }

    /** @return array{Schema, string} */
    public function ofExtract(Migration $migration): array
    {
        $extract = $migration->frozenExtracts()->find($this->validated('extract')) ?? abort(404);
        $entity = TableMaker::ofExtract($extract, (string) $this->validated('name'));

        return [new Schema([$entity]), "the shape of $extract->name"];
    }
}
