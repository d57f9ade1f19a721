/**
 * Variables by which a system, a linker or an interpreter takes code or programs from elsewhere than the command says: they would make
 * another program of the one that was read.
 */
const LOADERS =
  /^(path|pathext|comspec|shell|shellopts|bashopts|bash_env|env|ifs|cdpath|home|userprofile|appdata|localappdata|tmp|temp|tmpdir|display|ld_.*|dyld_.*|gconv_path|locpath|nlspath|malloc_.*|glibc_.*|node_.*|npm_.*|electron_.*|python.*|perl.*|ruby.*|gem_.*|bundle_.*|lua_.*|java_.*|_java_.*|jdk_.*|classpath|jvm_.*|dotnet_.*|coreclr_.*|complus_.*|cor_.*|mono_.*|php.*|tcl.*|r_(home|libs.*|environ.*|profile.*)|julia_.*|go(path|root|flags|bin|env|proxy)|rust(c.*|flags|up_.*)|cargo_.*|git_.*|ssh_.*|sudo_.*|editor|visual|pager|less(open|close|key.*)|man(path|pager|opt)|browser|http_proxy|https_proxy|all_proxy|no_proxy|ssl_.*|openssl_.*|qt_.*|gtk_.*|gio_.*|gst_.*|vk_.*|__.*|wine.*|xdg_.*|violet_crate_.*|ps4|prompt_command|term(info.*|cap)?)$/i;

/** What a profile may not set for its programs. */
export const isLoaderVariable = (name: string): boolean => LOADERS.test(name);
