<?php

namespace App\Looking;

use Illuminate\Http\Request;
use Illuminate\Http\UploadedFile;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Str;
use Illuminate\Validation\ValidationException;

/**
 * A file sent with a form, put where other processes find it: until the request is over, or, where a worker looks at it, until the same
 * form has come once more.
 */
final readonly class Aside
{
    /** The form's field that says which file it was, when it comes once more. */
    public const AGAIN = 'aside';

    private function __construct(public string $id, public string $path, public string $name)
    {
    }

    /**
     * Of a form whose field has been validated.
     *
     * @throws ValidationException where it waited too long
     */
    public static function of(Request $request, string $field): self
    {
        $file = $request->file($field);
        $aside = $file instanceof UploadedFile ? self::put($file) : self::again((string) $request->input(self::AGAIN));
        if ($aside === null) {
            throw ValidationException::withMessages([$field => 'The file is not here any more. Send it again.']);
        }
        // A form's own request is a copy of the one that is answered.
        $whole = request();
        $whole->attributes->set(self::AGAIN, $aside->id);
        app()->terminating(fn () => $whole->attributes->get(self::AGAIN) === null ? null : $aside->drop());

        return $aside;
    }

    /** @return array<string, string> rules of a field with a file of so many kB */
    public static function rules(string $field, int $most): array
    {
        return [$field => 'required_without:'.self::AGAIN."|file|max:$most", self::AGAIN => 'nullable|uuid'];
    }

    /** It waits for the form to come again. @return string|null what the form has to say then */
    public static function waits(Request $request): ?string
    {
        $id = $request->attributes->get(self::AGAIN);
        $request->attributes->remove(self::AGAIN);

        return $id;
    }

    private static function put(UploadedFile $file): self
    {
        $id = (string) Str::uuid();
        is_dir(self::folder()) || mkdir(self::folder(), 0700, true);
        $name = mb_substr($file->getClientOriginalName(), 0, 200);
        $file->move(self::folder(), "$id.data");
        file_put_contents(self::folder()."/$id.json", json_encode(
            ['name' => $name, 'user' => Auth::id()],
            JSON_THROW_ON_ERROR | JSON_INVALID_UTF8_SUBSTITUTE,
        ));

        return new self($id, self::folder()."/$id.data", $name);
    }

    /** Somebody else's is none. */
    private static function again(string $id): ?self
    {
        $path = self::folder()."/$id";
        if (! Str::isUuid($id) || ! is_file("$path.data")) {
            return null;
        }
        $of = json_decode((string) file_get_contents("$path.json"), true);

        return ($of['user'] ?? null) === Auth::id() ? new self($id, "$path.data", (string) $of['name']) : null;
    }

    private function drop(): void
    {
        @unlink($this->path);
        @unlink(self::folder()."/$this->id.json");
    }

    private static function folder(): string
    {
        return config('baggage.vault').'/aside';
    }

    /** Removes what nobody came back for. */
    public static function sweep(): void
    {
        foreach (glob(self::folder().'/*') ?: [] as $path) {
            if ((int) @filemtime($path) < now()->subHours(2)->timestamp) {
                @unlink($path);
            }
        }
    }
}
