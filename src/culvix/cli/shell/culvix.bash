_shtab_culvix_subparsers=(inspect profile report clean recipe compare tables whole sample apply verify desktop remembered demo)

_shtab_culvix_inspect_option_strings=(-h --help -o --output --part --cells --only --rows --sample --sample-seed --ragged --leave-last --header-lines --decimal --not-missing --encoding --dictionary --key)
_shtab_culvix_profile_option_strings=(-h --help -o --output --alpha --quantile-type --missing --part --cells --only --rows --sample --sample-seed --ragged --leave-last --header-lines --decimal --not-missing --encoding --dictionary --columns --no-correlation --with --by --given --seed --repeats --jobs)
_shtab_culvix_report_option_strings=(-h --help -o --output --alpha --quantile-type --missing --part --cells --only --rows --sample --sample-seed --ragged --leave-last --header-lines --decimal --not-missing --encoding --dictionary)
_shtab_culvix_clean_option_strings=(-h --help -o --output --alpha --quantile-type --missing --part --cells --only --rows --sample --sample-seed --ragged --leave-last --header-lines --decimal --not-missing --encoding --dictionary --whole --address --seconds)
_shtab_culvix_recipe_option_strings=(-h --help -o --output --alpha --quantile-type --missing --part --cells --only --rows --sample --sample-seed --ragged --leave-last --header-lines --decimal --not-missing --encoding --dictionary)
_shtab_culvix_compare_option_strings=(-h --help -o --output --part --cells --only --rows --sample --sample-seed --ragged --leave-last --header-lines --decimal --not-missing --encoding --dictionary --key --level)
_shtab_culvix_tables_option_strings=(-h --help)
_shtab_culvix_whole_option_strings=(-h --help --table --query --query-file --seconds -o --output --quantile-type --study)
_shtab_culvix_sample_option_strings=(-h --help --table --query --query-file --seconds -o --output --size --seed --whole --by --beyond)
_shtab_culvix_apply_option_strings=(-h --help -o --output --table --query --query-file --seconds --sample --size --seed --log)
_shtab_culvix_verify_option_strings=(-h --help --source)
_shtab_culvix_desktop_option_strings=(-h --help --install --remove)
_shtab_culvix_remembered_option_strings=(-h --help --erase --older-than)
_shtab_culvix_demo_option_strings=(-h --help)
_shtab_culvix_option_strings=(-h --help --recipe --version)



_shtab_culvix_inspect___ragged_choices=(fill leave-out)
_shtab_culvix_inspect___decimal_choices=(point comma)
_shtab_culvix_profile___ragged_choices=(fill leave-out)
_shtab_culvix_profile___decimal_choices=(point comma)
_shtab_culvix_report___ragged_choices=(fill leave-out)
_shtab_culvix_report___decimal_choices=(point comma)
_shtab_culvix_clean___ragged_choices=(fill leave-out)
_shtab_culvix_clean___decimal_choices=(point comma)
_shtab_culvix_recipe___ragged_choices=(fill leave-out)
_shtab_culvix_recipe___decimal_choices=(point comma)
_shtab_culvix_compare___ragged_choices=(fill leave-out)
_shtab_culvix_compare___decimal_choices=(point comma)
_shtab_culvix_remembered___erase_choices=(drafts recent pasted samples sources log all)
_shtab_culvix_pos_1_choices=(inspect profile report clean recipe compare tables whole sample apply verify desktop remembered demo)

_shtab_culvix_inspect__h_nargs=0
_shtab_culvix_inspect___help_nargs=0
_shtab_culvix_profile__h_nargs=0
_shtab_culvix_profile___help_nargs=0
_shtab_culvix_profile___no_correlation_nargs=0
_shtab_culvix_report__h_nargs=0
_shtab_culvix_report___help_nargs=0
_shtab_culvix_clean__h_nargs=0
_shtab_culvix_clean___help_nargs=0
_shtab_culvix_clean___whole_nargs=0
_shtab_culvix_recipe__h_nargs=0
_shtab_culvix_recipe___help_nargs=0
_shtab_culvix_compare__h_nargs=0
_shtab_culvix_compare___help_nargs=0
_shtab_culvix_tables__h_nargs=0
_shtab_culvix_tables___help_nargs=0
_shtab_culvix_whole__h_nargs=0
_shtab_culvix_whole___help_nargs=0
_shtab_culvix_sample__h_nargs=0
_shtab_culvix_sample___help_nargs=0
_shtab_culvix_sample___whole_nargs=0
_shtab_culvix_apply__h_nargs=0
_shtab_culvix_apply___help_nargs=0
_shtab_culvix_verify__h_nargs=0
_shtab_culvix_verify___help_nargs=0
_shtab_culvix_desktop__h_nargs=0
_shtab_culvix_desktop___help_nargs=0
_shtab_culvix_desktop___install_nargs=0
_shtab_culvix_desktop___remove_nargs=0
_shtab_culvix_remembered__h_nargs=0
_shtab_culvix_remembered___help_nargs=0
_shtab_culvix_demo__h_nargs=0
_shtab_culvix_demo___help_nargs=0
_shtab_culvix_pos_1_nargs=A...
_shtab_culvix__h_nargs=0
_shtab_culvix___help_nargs=0
_shtab_culvix___version_nargs=0


_shtab_compgen_files() {
  compgen -f -- $1  # files
}

_shtab_compgen_dirs() {
  compgen -d -- $1  # recurse into subdirs
}

_shtab_replace_nonword() {
  echo "${1//[^[:word:]]/_}"
}

_set_parser_defaults() {
  local subparsers_var="${prefix}_subparsers[@]"
  sub_parsers=${!subparsers_var-}

  local current_option_strings_var="${prefix}_option_strings[@]"
  current_option_strings=${!current_option_strings_var}

  completed_positional_actions=0

  _set_new_action "pos_$completed_positional_actions" true
}

_set_new_action() {
  current_action="${prefix}_$(_shtab_replace_nonword $1)"

  local current_action_compgen_var=${current_action}_COMPGEN
  current_action_compgen="${!current_action_compgen_var-}"

  local current_action_choices_var="${current_action}_choices[@]"
  current_action_choices="${!current_action_choices_var-}"

  local current_action_nargs_var="${current_action}_nargs"
  if [ -n "${!current_action_nargs_var-}" ]; then
    current_action_nargs="${!current_action_nargs_var}"
  else
    current_action_nargs=1
  fi

  current_action_args_start_index=$(( $word_index + 1 - $pos_only ))

  current_action_is_positional=$2
}

_shtab_culvix() {
  local completing_word="${COMP_WORDS[COMP_CWORD]}"
  local previous_word="${COMP_WORDS[COMP_CWORD-1]}"
  local completed_positional_actions
  local current_action
  local current_action_args_start_index
  local current_action_choices
  local current_action_compgen
  local current_action_is_positional
  local current_action_nargs
  local current_option_strings
  local sub_parsers
  COMPREPLY=()

  local prefix=_shtab_culvix
  local word_index=0
  local pos_only=0 # "--" delimiter not encountered yet
  _set_parser_defaults
  word_index=1

  # determine what arguments are appropriate for the current state
  # of the arg parser
  while [ $word_index -ne $COMP_CWORD ]; do
    local this_word="${COMP_WORDS[$word_index]}"

    if [[ $pos_only = 1 || " $this_word " != " -- " ]]; then
      if [[ -n $sub_parsers && " ${sub_parsers[@]} " == *" $this_word "* ]]; then
        # valid subcommand: add it to the prefix & reset the current action
        prefix="${prefix}_$(_shtab_replace_nonword $this_word)"
        _set_parser_defaults
      fi

      if [[ " ${current_option_strings[@]} " == *" $this_word "* ]]; then
        # a new action should be acquired (due to recognised option string or
        # no more input expected from current action);
        # the next positional action can fill in here
        _set_new_action $this_word false
      fi

      if [[ "$current_action_nargs" != "*" ]] && \
         [[ "$current_action_nargs" != "+" ]] && \
         [[ "$current_action_nargs" != "?" ]] && \
         [[ "$current_action_nargs" != *"..." ]] && \
         (( $word_index + 1 - $current_action_args_start_index - $pos_only >= \
            $current_action_nargs )); then
        $current_action_is_positional && let "completed_positional_actions += 1"
        _set_new_action "pos_$completed_positional_actions" true
      fi
    else
      pos_only=1 # "--" delimiter encountered
    fi

    let "word_index+=1"
  done

  # Generate the completions

  COMPREPLY=()
  if [[ $pos_only = 0 && "$completing_word" == -* &&
        ( -z "$current_action_compgen" || "$current_action_is_positional" = true ) ]]; then
    # optional argument started: use option strings
    while IFS= read -r line; do COMPREPLY+=("$line"); done < <(
      compgen -W "${current_option_strings[*]}" -- "$completing_word")
  elif [[ "$previous_word" =~ ^[0-9\&]*[\<\>]\>?$ ]]; then
    # handle redirection operators
    compopt -o filenames 2>/dev/null || : # bash>=4
    while IFS= read -r line; do COMPREPLY+=("$line"); done < <(compgen -f -- "$completing_word")
  else
    # use choices & compgen
    local action_compgen_word="$completing_word"
    # handle tab-completing in the middle of a line (#248 <- #116)
    [[ -n "$current_action_compgen" && "$completing_word" == -* ]] && action_compgen_word=""
    [ -n "$current_action_compgen" ] && {
      [[ "$current_action_compgen" =~ _(file|dir|glob|FILE|DIR|GLOB)|File|Dir|Glob ]] &&
        compopt -o filenames 2>/dev/null || : # bash>=4
      while IFS= read -r line; do COMPREPLY+=("$line"); done < <(
        "$current_action_compgen" "$action_compgen_word")
    }
    while IFS= read -r line; do COMPREPLY+=("$line"); done < <(
      compgen -W "${current_action_choices[*]}" -- "$completing_word")
  fi

  if [[ ${#COMPREPLY[@]} = 0 ]]; then
    # native fallback matches are not necessarily filenames (e.g. variables)
    compopt +o filenames 2>/dev/null || : # bash>=4
  fi

  return 0
}

complete -o bashdefault -F _shtab_culvix culvix
